#include "recording/read/line_taker.hpp"

#include <algorithm>
#include <charconv>
#include <cmath>
#include <cstdlib>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

std::string unescape(std::string_view uri) {
    std::string plain;
    uri.remove_prefix(uri.starts_with('/') ? 1 : 0);
    for (std::size_t i = 0; i < uri.size(); ++i) {
        unsigned code = 0;
        if (uri[i] == '%' && i + 2 < uri.size() &&
            std::from_chars(uri.data() + i + 1, uri.data() + i + 3, code, 16).ec == std::errc{}) {
            plain += static_cast<char>(code);
            i += 2;
        } else {
            plain += uri[i];
        }
    }
    return plain;
}

code_line line_in(std::string_view text) {
    const std::size_t colon = text.find_last_of(':');
    code_line line{std::string{text.substr(0, colon)}, 0};
    if (colon != std::string_view::npos) {
        std::from_chars(text.data() + colon + 1, text.data() + text.size(), line.line);
    }
    return line;
}

} // namespace

void line_taker::fail(recording_fault code, const std::string& what) const {
    throw recording_error(code, run_.file + ":" + std::to_string(run_.lines + 1) + ": " + what + " [" +
                                    std::string{id_of(code)} + "]");
}
void line_taker::foreign() const {
    fail(recording_fault::foreign, "this is no recording: the first line of one is an event of type "
                                   "'wired-courier.recording'; make one with courier::recorder, or with "
                                   "'courier demo --record FILE'");
}

void line_taker::take(const parsed_line& line) {
    const std::string_view type = line.type;
    if (run_.lines == 0 && type != "recording") {
        foreign();
    }
    if (!line.has_data) {
        take_bare(line);
    } else if (type == "event" || type == "post") {
        take_event(line);
    } else if (type == "subscribed") {
        take_subscribed(line.subject, object_in(line.data));
    } else if (type == "ended") {
        take_ended(object_in(line.data));
    } else if (type == "paused" || type == "resumed") {
        take_paused(type == "paused", object_in(line.data));
    } else if (type == "channel") {
        take_channel(line.subject, object_in(line.data));
    } else if (type == "recording") {
        take_recording(object_in(line.data));
    } else if (type == "party.ended") {
        run_.parties[number32(line.data["party"].value())].ended = true;
    } else if (type == "waiting") {
        take_waiting(object_in(line.data));
    } else if (type == "skipped") {
        run_.skipped += std::uint64_t{line.data["events"]};
    } else if (type == "finished") {
        run_.finished = true;
    } else {
        fail(recording_fault::bad_line,
             "the line is of type 'wired-courier." + std::string{type} +
                 "', which this version does not know; read it with the version that wrote it");
    }
}

void line_taker::take_bare(const parsed_line& line) {
    if (line.type == "frame") {
        take_frame(line.time);
    } else if (line.type == "closed") {
        recorded_channel& which = run_.channels[channel_of(line.subject)];
        which.open -= which.open != 0 ? 1U : 0U;
    } else {
        fail(recording_fault::bad_line,
             "the line of type '" + std::string{line.type} + "' has no data; the file was changed or damaged");
    }
}

void line_taker::take_recording(object data) {
    std::uint64_t format = 0;
    for (const auto& [key, member] : data) {
        if (key == "format") {
            format = member.get_uint64();
        } else if (key == "facts") {
            for (const auto& [name, fact] : object_in(member)) {
                run_.facts[std::string{name}] = std::string{std::string_view(fact.get_string())};
            }
        }
    }
    if (format != recording_format) {
        fail(recording_fault::wrong_version, "the recording is of format " + std::to_string(format) +
                                                 ", and this version reads format " + std::to_string(recording_format) +
                                                 "; read it with the version that wrote it");
    }
    run_.source = unescape(source);
}

std::uint32_t line_taker::channel_of(std::string_view name) {
    if (newest_channel_ < run_.channels.size() && run_.channels[newest_channel_].name == name) {
        return newest_channel_;
    }
    const std::uint32_t text = run_.texts.number_of(name);
    const auto [found, is_new] = channels_.emplace(text, static_cast<std::uint32_t>(run_.channels.size()));
    if (is_new) {
        run_.channels.emplace_back().name = name;
        published_.push_back(0);
    }
    return newest_channel_ = found->second;
}

void line_taker::take_channel(std::string_view name, object data) {
    recorded_channel& which = run_.channels[channel_of(name)];
    ++which.open;
    for (const auto& [key, member] : data) {
        if (key == "payload") {
            which.payload = std::string_view(member.get_string());
        } else if (key == "hub") {
            which.hub = std::string_view(member.get_string());
        } else if (key == "query") {
            which.is_query = member.get_bool();
        }
    }
}

void line_taker::take_subscribed(std::string_view channel, object data) {
    recorded_subscription made;
    made.channel = channel_of(channel);
    bool is_paused = false;
    for (const auto& [key, member] : data) {
        if (key == "subscription") {
            made.number = number32(member);
        } else if (key == "party") {
            made.party = number32(member);
        } else if (key == "name") {
            made.name = std::string_view(member.get_string());
        } else if (key == "at") {
            made.at = std::string_view(member.get_string());
        } else if (key == "stage") {
            made.stage = std::string_view(member.get_string());
        } else if (key == "to") {
            made.to = std::string_view(member.get_string());
        } else if (key == "paused") {
            is_paused = member.get_bool();
        } else if (key == "handler") {
            made.handler = number32(member);
        }
    }
    made.since = run_.frames();
    made.after = newest_event_;
    made.published_before = published_[made.channel];
    if (is_paused) {
        made.pauses.push_back({made.since, UINT32_MAX});
    }
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

void line_taker::take_ended(object data) {
    std::uint32_t number = 0;
    bool closed = false;
    for (const auto& [key, member] : data) {
        if (key == "subscription") {
            number = number32(member);
        } else if (key == "closed") {
            closed = member.get_bool();
        }
    }
    recorded_subscription* const gone = subscription(number);
    if (gone == nullptr) {
        return;
    }
    gone->until = run_.frames();
    gone->closed = closed;
    std::erase(run_.channels[gone->channel].live, number);
    if (gone->party != 0) {
        recorded_party& party = run_.parties[gone->party];
        party.live -= party.live != 0 ? 1U : 0U;
        if (closed) {
            ++party.lost;
            party.last_lost = number;
            party.lost_frame = run_.frames();
        }
    }
}

void line_taker::take_paused(bool is_paused, object data) {
    recorded_subscription* const which = subscription(number32(data["subscription"].value()));
    if (which == nullptr) {
        return;
    }
    if (is_paused) {
        which->pauses.push_back({run_.frames(), UINT32_MAX});
    } else if (!which->pauses.empty()) {
        which->pauses.back().until = run_.frames();
    }
}

void line_taker::take_frame(std::string_view time) {
    // ISO 8601, as the recorder writes it: PT12.5S
    std::int64_t ns = 0;
    double seconds = 0;
    const bool negative = time.starts_with('-');
    const std::size_t from = time.find("PT");
    if (from != std::string_view::npos) {
        const std::string digits{time.substr(from + 2)};
        seconds = std::strtod(digits.c_str(), nullptr);
    }
    constexpr double most = 9.2e9; // s; as much as a game time holds
    seconds = std::isfinite(seconds) ? std::clamp(seconds, -most, most) : 0;
    ns = static_cast<std::int64_t>(seconds * 1e9 + (seconds < 0 ? -0.5 : 0.5));
    run_.frame_times.push_back(negative ? -ns : ns);
}

void line_taker::take_waiting(object data) {
    run_.waiting.clear();
    for (const value one : items_of(data["sequences"].value())) {
        waiting_books waits;
        for (const auto& [key, member] : object_in(one)) {
            if (key == "name") {
                waits.subscriber = std::string_view(member.get_string());
            } else if (key == "started") {
                waits.started = line_in(member.get_string());
            } else if (key == "at") {
                waits.waits_at = line_in(member.get_string());
            } else if (key == "for") {
                waits.waits_for = std::string_view(member.get_string());
            } else if (key == "channel") {
                waits.channel = std::string_view(member.get_string());
            } else if (key == "since") {
                waits.since_frame = member.get_uint64();
            } else if (key == "source_gone") {
                waits.source_gone = member.get_bool();
            }
        }
        run_.waiting.push_back(std::move(waits));
    }
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
