// Lines that are events.
#include "recording/read/line_taker.hpp"

#include <algorithm>
#include <charconv>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

std::uint64_t line_taker::number_in(std::string_view text) const {
    std::uint64_t number = 0;
    const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), number);
    if (error != std::errc{} || end != text.data() + text.size()) {
        fail(recording_fault::bad_line,
             "'" + std::string{text} + "' is no number of an event; the file was changed or damaged");
    }
    return number;
}

void line_taker::take_event(const parsed_line& line) {
    if (line.frame != run_.frames()) {
        fail(recording_fault::bad_line, "the line says frame " + std::to_string(line.frame) + ", and " +
                                            std::to_string(run_.frames()) +
                                            " frames are over; lines are missing, so the file was changed or damaged");
    }
    recorded_event event;
    event.id = number_in(line.id);
    event.cause = line.cause.empty() ? 0 : number_in(line.cause);
    if (event.id == 0 || event.cause >= event.id) {
        fail(recording_fault::bad_line, "event " + std::to_string(event.id) + " is said to be caused by event " +
                                            std::to_string(event.cause) +
                                            ", which is not before it; the file was changed or damaged");
    }
    event.frame = run_.frames();
    event.channel = channel_of(line.subject);
    event.is_post = line.type == "post";
    event.first_heard = static_cast<std::uint32_t>(run_.heard.size());
    event.first_missed = static_cast<std::uint32_t>(run_.missed.size());
    for (const auto& [key, member] : object_in(line.data)) {
        take_of_event(event, key, member);
    }
    event.heard = static_cast<std::uint32_t>(run_.heard.size()) - event.first_heard;
    event.missed = static_cast<std::uint32_t>(run_.missed.size()) - event.first_missed;
    newest_event_ = std::max(newest_event_, event.id);
    if (!event.is_post) {
        ++published_[event.channel];
        if (event.stopped) {
            note_stopped(event);
        }
    }
    run_.events.push_back(event);
}

void line_taker::take_of_event(recorded_event& event, std::string_view key, const value& from) {
    if (key == "at") {
        event.at = text(from, newest_at_);
    } else if (key == "heard") {
        take_heard(from);
    } else if (key == "payload") {
        if (keep_payloads_) {
            const std::string raw = simdjson::minify(from);
            event.payload = run_.payloads.size();
            event.payload_size = static_cast<std::uint32_t>(raw.size());
            run_.payloads += raw;
        }
    } else if (key == "in_handler") {
        event.in_handler = number32(from);
    } else if (key == "by") {
        event.by = text(from, newest_by_);
    } else if (key == "to") {
        event.to = run_.texts.number_of(from.get_string());
    } else if (key == "took") {
        take_took(from);
    } else if (key == "missed") {
        take_missed(from);
    } else if (key == "outbox") {
        event.outbox = run_.texts.number_of(from.get_string());
    } else if (key == "stopped") {
        event.stopped = true;
        event.stopped_by = number32(from);
    } else {
        take_flag(event, key, from);
    }
}

void line_taker::take_flag(recorded_event& event, std::string_view key, const value& from) {
    if (key == "outside") {
        event.outside = from.get_bool();
    } else if (key == "retained") {
        event.retained = from.get_bool();
    } else if (key == "refused") {
        event.refused = from.get_bool();
    } else if (key == "vacant") {
        event.vacant = from.get_bool();
    } else if (key == "merged") {
        event.merged = from.get_bool();
    } else if (key == "turned_away") {
        event.turned_away = from.get_bool();
    }
}

void line_taker::take_heard(const value& from) {
    for (const value one : items_of(from)) {
        const std::uint32_t number = number32(one);
        run_.heard.push_back(number);
        if (recorded_subscription* const s = subscription(number); s != nullptr) {
            ++s->turns[turn::served];
        }
    }
}

// Most often the same as in the event before.
std::uint32_t line_taker::text(const value& from, std::uint32_t& newest) {
    const std::string_view plain = from.get_string();
    if (run_.texts[newest] != plain) {
        newest = run_.texts.number_of(plain);
    }
    return newest;
}

void line_taker::take_took(const value& from) {
    for (const value one : items_of(from)) {
        std::uint32_t pair[2] = {0, 0};
        std::size_t i = 0;
        for (const value number : items_of(one)) {
            if (i < 2) {
                pair[i++] = number32(number);
            }
        }
        if (recorded_subscription* const s = subscription(pair[0]); s != nullptr) {
            s->took.push_back(pair[1]);
        }
    }
}

void line_taker::take_missed(const value& from) {
    for (const value one : items_of(from)) {
        recorded_miss miss{0, turn::paused};
        std::size_t i = 0;
        for (const value part : items_of(one)) {
            if (i++ == 0) {
                miss.subscription = number32(part);
            } else {
                const std::string_view why = part.get_string();
                for (std::size_t k = 0; k < turn_kinds; ++k) {
                    if (text_of(static_cast<turn>(k)) == why) {
                        miss.why = static_cast<turn>(k);
                    }
                }
            }
        }
        run_.missed.push_back(miss);
        if (recorded_subscription* const s = subscription(miss.subscription); s != nullptr) {
            ++s->turns[miss.why];
        }
    }
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
