// SPDX-License-Identifier: MIT
#include "recording/read/line_taker.hpp"

#include "data/percent.hpp"
#include "recording/read/code_line_in.hpp"

#include <algorithm>
#include <cmath>
#include <cstdlib>
#include <type_traits>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

/// A name from a URI reference; of other writers it may be anything.
std::string name_in(std::string_view uri) {
    uri.remove_prefix(uri.starts_with('/') ? 1 : 0);
    return percent_decoded(uri).value_or(std::string(uri));
}

// ISO 8601, as the recorder writes it: PT12.5S
std::int64_t nanoseconds_in(std::string_view duration) {
    double seconds = 0;
    const std::size_t from = duration.find("PT");
    if (from != std::string_view::npos) {
        const std::string digits{duration.substr(from + 2)};
        seconds = std::strtod(digits.c_str(), nullptr);
    }
    constexpr double most = 9.2e9; // s; as much as a game time holds
    seconds = std::isfinite(seconds) ? std::clamp(seconds, -most, most) : 0;
    const auto ns = static_cast<std::int64_t>(seconds * 1e9 + (seconds < 0 ? -0.5 : 0.5));
    return duration.starts_with('-') ? -ns : ns;
}

} // namespace

void line_taker::fail(recording_code code, const std::string& what, const char* advice) const {
    throw recording_error(code, what, run_.file + ":" + std::to_string(run_.lines + 1), advice);
}
void line_taker::foreign() const {
    fail(recording_code::foreign,
         "not a recording: the first line of one is an event of type 'wired-courier.recording'",
         "make one with courier::recorder, or with 'courier demo --record FILE'");
}

/// Takes what stands beside a line's `data`.
class line_taker::attributes {
public:
    attributes(const line_taker& by, const parsed_line& line) noexcept : by_(by), line_(line) {}

    void operator()(from_source, std::string_view& name) const { name = by_.source; }
    void operator()(own_id, std::uint64_t& id) const { id = by_.number_in(line_.id); }
    void operator()(of_event, std::uint64_t& cause) const {
        cause = line_.cause.empty() ? 0 : by_.number_in(line_.cause);
    }
    void operator()(as_duration, std::int64_t& ns) const { ns = nanoseconds_in(line_.time); }
    void operator()(channel_link& on) const {
        on.number = line_.channel;
        on.name = line_.subject;
    }
    void operator()(new_channel& is) const {
        is.number = line_.channel;
        is.name = line_.subject;
    }

private:
    const line_taker& by_;
    const parsed_line& line_;
};

template <class Record>
void line_taker::take_as(const parsed_line& line) {
    if constexpr (std::is_base_of_v<made_record, Record>) {
        begin_event(line);
    }
    Record made;
    if constexpr (has_attributes<Record>) {
        const attributes attribute(*this, line);
        Record::attributes(made, attribute);
    }
    if constexpr (has_data<Record>) {
        if (!line.has_data) {
            fail(recording_code::bad_line, "the line of type '" + std::string{line.type} + "' has no data");
        }
        read_data(line.data, made, *this);
    }
    note(made);
}

void line_taker::take(const parsed_line& line) {
    if (joined_late_) {
        join(line);
    }
    if (run_.lines == 0 && line.type != recording_record::type) {
        foreign();
    }
    if (line.type == event_record::type) { // as most are
        take_as<event_record>(line);
        return;
    }
    const bool known = all_records::any([&]<class Record>(std::type_identity<Record>) {
        if constexpr (Record::type.empty()) {
            return false;
        } else {
            const bool is_this = line.type == Record::type;
            if (is_this) {
                take_as<Record>(line);
            }
            return is_this;
        }
    });
    run_.unknown_lines += known ? 0U : 1U;
}

void line_taker::note(const recording_record& line) {
    if (line.format != recording_format) {
        fail(recording_code::wrong_version,
             "the recording has format " + std::to_string(line.format) + ", and this version reads format " +
                 std::to_string(recording_format),
             "read it with the version that wrote it");
    }
    for (const auto& [name, fact] : line.facts) {
        run_.facts[std::string{name}] = fact;
    }
    run_.source = name_in(line.name);
}

std::uint32_t line_taker::channel_of(std::uint32_t number, std::string_view name) {
    if (number == UINT32_MAX) {
        fail(recording_code::bad_line, "the line has no channel number");
    }
    if (number != newest_channel_.first) {
        const auto [found, is_new] = channels_.emplace(number, static_cast<std::uint32_t>(run_.channels.size()));
        if (is_new) {
            recorded_channel& made = run_.channels.emplace_back();
            made.number = number;
            made.name = name;
        }
        newest_channel_ = *found;
    }
    return newest_channel_.second;
}

void line_taker::note(const channel_record& line) {
    recorded_channel& which = run_.channels[channel_of(line.is.number, line.is.name)];
    ++which.open;
    which.payload = line.payload;
    which.hub = line.hub;
    which.is_query = line.is_query;
    which.is_owned = line.is_owned;
}

void line_taker::note(const closed_record& line) {
    recorded_channel& which = run_.channels[channel_of(line.on.number, line.on.name)];
    which.open -= which.open != 0 ? 1U : 0U;
}

void line_taker::note(const subscribed_record& line) {
    if (joined_late_ && subscription(line.subscription) != nullptr) {
        return; // one who comes back is told again who is there
    }
    recorded_subscription made;
    made.number = line.subscription;
    made.channel = channel_of(line.on.number, line.on.name);
    made.party = line.party;
    made.name = line.name;
    made.at = line.at;
    made.stage = line.stage;
    made.to = line.to;
    made.handler = line.handler;
    made.since = run_.frames();
    made.after = newest_event_;
    made.published_before = run_.channels[made.channel].published;
    if (line.is_paused) {
        made.pauses.push_back({made.since, UINT32_MAX});
    }
    made.who = run_.texts.number_of(made.name.empty() ? last_part(made.at) : made.name);
    if (made.party != 0) {
        recorded_party& party = run_.parties[made.party];
        party.name = made.name;
        ++party.live;
    }
    run_.channels[made.channel].live.push_back(made.number);
    const std::uint32_t number = made.number;
    run_.subscriptions.insert_or_assign(number, std::move(made));
}

recorded_subscription* line_taker::subscription(std::uint32_t number) {
    if (number < quick_.size() && quick_[number] != nullptr) {
        return quick_[number];
    }
    const auto found = run_.subscriptions.find(number);
    if (found == run_.subscriptions.end()) {
        return nullptr;
    }
    constexpr std::uint32_t most = 1U << 22;
    if (number < most) {
        if (quick_.size() <= number) {
            quick_.resize(number + 1);
        }
        quick_[number] = &found->second; // which stays where it is
    }
    return &found->second;
}

void line_taker::note(const ended_record& line) {
    recorded_subscription* const gone = subscription(line.subscription);
    if (gone == nullptr) {
        return;
    }
    gone->until = run_.frames();
    gone->closed = line.channel_closed;
    std::erase(run_.channels[gone->channel].live, line.subscription);
    if (gone->party != 0) {
        recorded_party& party = run_.parties[gone->party];
        party.live -= party.live != 0 ? 1U : 0U;
        if (line.channel_closed) {
            ++party.lost;
            party.last_lost = line.subscription;
            party.lost_frame = run_.frames();
        }
    }
}

void line_taker::note(const paused_record& line) {
    if (recorded_subscription* const which = subscription(line.subscription); which != nullptr) {
        which->pauses.push_back({run_.frames(), UINT32_MAX});
    }
}

void line_taker::note(const resumed_record& line) {
    recorded_subscription* const which = subscription(line.subscription);
    if (which != nullptr && !which->pauses.empty()) {
        which->pauses.back().until = run_.frames();
    }
}

void line_taker::note(const party_ended_record& line) {
    run_.parties[line.party].ended = true;
}

// One who joined late begins to count where the game is, and again where many frames are missing.
void line_taker::join(const parsed_line& line) {
    constexpr std::uint32_t most_missing = 1U << 16;
    const auto frame = static_cast<std::uint32_t>(std::min<std::uint64_t>(line.frame, UINT32_MAX / 2));
    if (run_.frame_times.empty() || frame > run_.frames() + most_missing) {
        run_.frame_times.clear();
        run_.first_frame = frame;
    }
    while (run_.frames() < frame) {
        run_.frame_times.push_back(run_.frame_times.back());
    }
}

void line_taker::note(const frame_record& line) {
    run_.frame_times.push_back(line.time);
}

void line_taker::note(const waiting_record& line) {
    run_.waiting = line.sequences;
    run_.left_waiting = line.boxes;
    run_.state_frame = run_.frames();
}

void line_taker::note(const systems_record& line) {
    run_.systems = line.systems;
}

void line_taker::note(const phases_record& line) {
    run_.phases = line.sets;
}

void line_taker::note(const process_record& line) {
    run_.processes.push_back({std::string{line.process}, std::string{line.run}});
}

void line_taker::note(const refreshers_record& line) {
    run_.idle_refreshers = line.idle;
}

void line_taker::note(const circles_record& line) {
    run_.circles = line.circles;
}

void line_taker::note(const orders_record& line) {
    run_.orders = line.orders;
}

void line_taker::note(const accepted_record& line) {
    run_.accepted = line.findings;
}

void line_taker::note(const skipped_record& line) {
    run_.skipped += line.events;
}

void line_taker::note(const finished_record&) {
    run_.finished = true;
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
