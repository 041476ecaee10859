// SPDX-License-Identifier: MIT
// Lines that are events.
#include "recording/read/line_taker.hpp"

#include <algorithm>
#include <charconv>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

turn turn_called(std::string_view name) {
    for (std::size_t k = 0; k < turn_kinds; ++k) {
        if (text_of(static_cast<turn>(k)) == name) {
            return static_cast<turn>(k);
        }
    }
    return turn::paused;
}

} // namespace

std::uint64_t line_taker::number_in(std::string_view text) const {
    std::uint64_t number = 0;
    const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), number);
    if (error != std::errc{} || end != text.data() + text.size()) {
        fail(recording_code::bad_line, "'" + std::string{text} + "' is not the number of an event");
    }
    return number;
}

void line_taker::begin_event(const parsed_line& line) {
    if (line.frame != run_.frames() && !joined_late_) {
        fail(recording_code::bad_line, "the line says frame " + std::to_string(line.frame) + ", and " +
                                           std::to_string(run_.frames()) + " frames are over: lines are missing");
    }
    begun_ = {};
    begun_.frame =
        joined_late_ ? static_cast<std::uint32_t>(std::min<std::uint64_t>(line.frame, UINT32_MAX - 1)) : run_.frames();
    begun_.first_heard = static_cast<std::uint32_t>(run_.heard.size());
    begun_.first_missed = static_cast<std::uint32_t>(run_.missed.size());
    begun_.first_took = static_cast<std::uint32_t>(run_.took.size());
}

recorded_event line_taker::made_by(const made_record& line) {
    if (line.id == 0 || line.cause >= line.id) {
        fail(recording_code::bad_line, "event " + std::to_string(line.id) + " is said to be caused by event " +
                                           std::to_string(line.cause) + ", which is not before it");
    }
    recorded_event event = begun_;
    event.id = line.id;
    event.cause = line.cause;
    event.channel = channel_of(line.on.number, line.on.name);
    event.at = text(line.where.at, newest_at_);
    event.by = text(line.where.by, newest_by_);
    event.in_handler = line.in_handler;
    event.maker = maker_of(event);
    event.heard = static_cast<std::uint32_t>(run_.heard.size()) - event.first_heard;
    event.missed = static_cast<std::uint32_t>(run_.missed.size()) - event.first_missed;
    newest_event_ = std::max(newest_event_, event.id);
    return event;
}

namespace {

/// Of a channel, and of a line of code that publishes there.
template <class Sums>
void count_frame(Sums& sums, std::uint32_t frame) {
    if (sums.published++ == 0) {
        sums.first_frame = frame;
    }
    sums.frames += sums.frames == 0 || sums.last_frame != frame ? 1U : 0U;
    sums.last_frame = frame;
}

} // namespace

publisher_books& line_taker::publisher(const recorded_event& event) {
    if (newest_publisher_ < run_.publishers.size()) {
        recorded_publisher& known = run_.publishers[newest_publisher_];
        if (known.channel == event.channel && known.at == event.at && known.by == event.by) {
            return known.sums;
        }
    }
    const auto [found, is_new] =
        publishers_.emplace(std::tuple(event.channel, event.at, event.by), run_.publishers.size());
    newest_publisher_ = found->second;
    if (is_new) {
        recorded_publisher& made = run_.publishers.emplace_back();
        made.channel = event.channel;
        made.at = event.at;
        made.by = event.by;
        made.sums.channel = run_.channels[event.channel].name;
        made.sums.name = run_.texts[event.by];
        made.sums.where = code_line_in(run_.texts[event.at]);
    }
    return run_.publishers[newest_publisher_].sums;
}

void line_taker::count_publish(const recorded_event& event) {
    recorded_channel& on = run_.channels[event.channel];
    on.in_frame = on.frames != 0 && on.last_frame == event.frame ? on.in_frame + 1 : 1;
    count_frame(on, event.frame);
    on.newest = std::max(on.newest, event.id);
    on.max_in_frame = std::max(on.max_in_frame, on.in_frame);
    on.deliveries += event.deliveries();
    on.refused += event.refused ? 1U : 0U;
    on.stopped += event.stopped ? 1U : 0U;
    publisher_books& by = publisher(event);
    count_frame(by, event.frame);
    const std::uint64_t unheard = event.was_unheard() ? 1U : 0U;
    on.unheard += unheard;
    by.unheard += unheard;
    const std::uint64_t vacant = event.vacant ? 1U : 0U;
    on.vacant += vacant;
    by.vacant += vacant;
}

void line_taker::count_post(const recorded_event& event) {
    recorded_channel& on = run_.channels[event.channel];
    ++on.posted;
    on.combined += event.combined ? 1U : 0U;
    on.turned_away += event.turned_away ? 1U : 0U;
    static_cast<void>(publisher(event));
}

std::uint32_t line_taker::maker_of(const recorded_event& event) {
    if (event.by != 0) {
        return event.by;
    }
    if (event.in_handler != 0) {
        const recorded_subscription* const by = subscription(event.in_handler);
        return by != nullptr ? by->who : run_.texts.number_of("?");
    }
    if (files_.size() <= event.at) {
        files_.resize(event.at + 1, 0);
    }
    if (files_[event.at] == 0) {
        files_[event.at] = run_.texts.number_of(file_in(run_.texts[event.at]));
    }
    return files_[event.at];
}

void line_taker::note(const event_record& line) {
    recorded_event event = made_by(line);
    event.to = run_.texts.number_of(line.to);
    event.outside = line.outside;
    event.retained = line.retained;
    event.refused = line.refused;
    event.vacant = line.vacant;
    event.stopped = line.stopped.has_value();
    event.stopped_by = line.stopped.value_or(0);
    event.is_cut = line.left_out.bytes != 0;
    if (!line.from.empty()) {
        run_.origins[event.id] = {std::string{line.from}, std::string{line.from_run}, line.from_event};
    }
    count_publish(event);
    if (event.stopped && !event.is_cut) {
        note_stopped(event);
    }
    run_.events.push_back(event);
}

void line_taker::note(const post_record& line) {
    recorded_event event = made_by(line);
    event.is_post = true;
    event.outbox = run_.texts.number_of(line.outbox);
    event.to = run_.texts.number_of(line.to);
    event.combined = line.combined;
    event.turned_away = line.turned_away;
    event.outside = line.outside;
    event.is_cut = line.left_out.bytes != 0;
    count_post(event);
    run_.events.push_back(event);
}

void line_taker::payload(const json_node& from) {
    if (keep_payloads_) {
        const std::string raw = from.minified();
        begun_.payload = run_.payloads.size();
        begun_.payload_size = static_cast<std::uint32_t>(raw.size());
        run_.payloads += raw;
    }
}

void line_taker::turns(const field& which, const json_node& from) {
    if (which.key == turn_list::heard.key) {
        take_heard(from);
    } else if (which.key == turn_list::missed.key) {
        take_missed(from);
    } else {
        take_took(from);
    }
}

void line_taker::take_heard(const json_node& from) {
    from.each_item([this](const json_node& one) {
        const std::uint32_t number = number32(one);
        run_.heard.push_back(number);
        if (recorded_subscription* const s = subscription(number); s != nullptr) {
            ++s->turns[turn::served];
        }
    });
}

// Most often the same as in the event before.
std::uint32_t line_taker::text(std::string_view plain, std::uint32_t& newest) {
    if (plain.empty()) {
        return 0;
    }
    if (run_.texts[newest] != plain) {
        newest = run_.texts.number_of(plain);
    }
    return newest;
}

void line_taker::take_took(const json_node& from) {
    from.each_item([this](const json_node& one) {
        std::uint32_t pair[2] = {0, 0};
        std::size_t i = 0;
        one.each_item([&](const json_node& number) {
            if (i < 2) {
                pair[i++] = number32(number);
            }
        });
        if (recorded_subscription* const s = subscription(pair[0]); s != nullptr) {
            (s->took ? *s->took : s->took.emplace()).add(pair[1]);
        }
        run_.took.push_back({pair[0], pair[1]});
        ++begun_.timed;
    });
}

void line_taker::take_missed(const json_node& from) {
    from.each_item([this](const json_node& one) {
        recorded_miss miss{0, turn::paused};
        std::size_t i = 0;
        one.each_item([&](const json_node& part) {
            if (i++ == 0) {
                miss.subscription = number32(part);
            } else {
                miss.why = turn_called(part.text());
            }
        });
        run_.missed.push_back(miss);
        begun_.failed += miss.why == turn::failed ? 1U : 0U;
        if (recorded_subscription* const s = subscription(miss.subscription); s != nullptr) {
            ++s->turns[miss.why];
        }
    });
}

// Whoever was there and had no turn was kept from it by the verdict.
void line_taker::note_stopped(const recorded_event& event) {
    if (event.to != 0) {
        return; // others are not addressed
    }
    for (const std::uint32_t number : run_.channels[event.channel].live) {
        recorded_subscription* const s = subscription(number);
        if (s == nullptr || s->after >= event.id) {
            continue;
        }
        const auto heard = run_.heard.begin() + event.first_heard;
        const auto missed = run_.missed.begin() + event.first_missed;
        if (std::find(heard, run_.heard.end(), number) == run_.heard.end() &&
            std::none_of(missed, run_.missed.end(), [=](const auto& m) { return m.subscription == number; })) {
            ++s->turns[turn::stopped];
        }
    }
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
