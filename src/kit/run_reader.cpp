// From lines of JSON to a run.
#include <courier/kit/run.hpp>

#include "record_codes.hpp"

#include <simdjson.h>

#include <algorithm>
#include <cerrno>
#include <charconv>
#include <cstdio>
#include <cstring>
#include <utility>

namespace courier::inline WIRED_COURIER_ABI {

namespace {

using object = simdjson::dom::object;
using value = simdjson::dom::element;

// By value, so that they live as long as a loop over them.
simdjson::dom::array items_of(const value& list) {
    return list.get_array();
}
object members_of(const value& whole) {
    return whole.get_object();
}

constexpr std::string_view type_prefix = "wired-courier.";

} // namespace

class run_builder::implementation {
public:
    implementation(run& into, std::string file, const read_options& options)
        : run_(into), keep_payloads_(options.payloads) {
        run_.file = std::move(file);
    }

    void line(std::string_view text, std::size_t room) {
        if (text.size() > detail::longest_line) {
            fail(recording_fault::line_too_long, "the line has over " + std::to_string(detail::longest_line) +
                                                     " bytes, more than any event; is this a recording?");
        }
        try {
            parse(text, room);
        } catch (const simdjson::simdjson_error& error) {
            if (error.error() == simdjson::UTF8_ERROR) {
                fail(recording_fault::not_utf8,
                     "the line is not UTF-8; recordings are, so the file was changed or damaged");
            }
            if (run_.lines == 0) {
                foreign();
            }
            fail(recording_fault::bad_line, std::string("the line is no event as recordings have them (") +
                                                error.what() + "); the file was changed or damaged");
        }
        ++run_.lines;
    }

    // Whole lines, with room behind them. At the first one that is not in order
    // the rest is read line by line, which tells what is wrong.
    void lines(std::string_view text, std::size_t room) {
        std::size_t good = 0; // bytes
        if (run_.lines != 0 && !has_long_line(text)) {
            good = parse_together(text);
        }
        while (good < text.size()) {
            const std::size_t end = text.find('\n', good);
            line(text.substr(good, end - good), room + text.size() - end);
            good = end + 1;
        }
    }

    void expect(std::uint64_t bytes) {
        constexpr std::uint64_t usual_line = 250;
        constexpr std::uint64_t most = 1U << 24;
        run_.events.reserve(static_cast<std::size_t>(std::min(bytes / usual_line, most)));
    }

    void done() {
        if (!std::is_sorted(run_.events.begin() + static_cast<std::ptrdiff_t>(sorted_), run_.events.end(), by_id) ||
            (sorted_ != 0 && sorted_ != run_.events.size() && by_id(run_.events[sorted_], run_.events[sorted_ - 1]))) {
            std::sort(run_.events.begin(), run_.events.end(), by_id);
        }
        sorted_ = run_.events.size();
    }

private:
    static bool by_id(const recorded_event& a, const recorded_event& b) noexcept { return a.id < b.id; }

    [[noreturn]] void fail(recording_fault code, const std::string& what) const {
        throw recording_error(code, run_.file + ":" + std::to_string(run_.lines + 1) + ": " + what + " [" +
                                        std::string{id_of(code)} + "]");
    }
    [[noreturn]] void foreign() const {
        fail(recording_fault::foreign, "this is no recording: the first line of one is an event of type "
                                       "'wired-courier.recording'; make one with courier::recorder, or with "
                                       "'courier demo --record FILE'");
    }

    void parse(std::string_view text, std::size_t room) {
        if (room < simdjson::SIMDJSON_PADDING) {
            copy_.assign(text);
            copy_.reserve(text.size() + simdjson::SIMDJSON_PADDING);
            text = copy_;
            room = copy_.capacity() - copy_.size();
        }
        take_line(parser_.parse(text.data(), text.size(), false).get_object());
    }

    static bool has_long_line(std::string_view text) {
        for (std::size_t at = 0; text.size() - at > detail::longest_line;) {
            const std::size_t end = text.substr(at, detail::longest_line).rfind('\n');
            if (end == std::string_view::npos) {
                return true;
            }
            at += end + 1;
        }
        return false;
    }

    // Returns where the first line begins that could not be read.
    std::size_t parse_together(std::string_view text) {
        std::size_t at = 0;
        simdjson::dom::document_stream stream;
        if (together_.parse_many(text.data(), text.size(), detail::longest_line + 1).get(stream) != simdjson::SUCCESS) {
            return 0;
        }
        for (auto one = stream.begin(); one != stream.end(); ++one) {
            at = one.current_index();
            object whole;
            const auto document = *one;
            if (document.error() != simdjson::SUCCESS || document.get_object().get(whole) != simdjson::SUCCESS ||
                (at != 0 && text[at - 1] != '\n')) {
                return at;
            }
            try {
                take_line(whole);
            } catch (const simdjson::simdjson_error&) {
                return at;
            }
            ++run_.lines;
        }
        return text.size() - stream.truncated_bytes();
    }

    void take_line(const object& line) {
        std::string_view id;
        std::string_view type;
        std::string_view cause;
        std::string_view subject;
        std::string_view time;
        std::uint64_t frame = 0;
        value data;
        bool has_data = false;
        for (const auto& [key, member] : line) {
            if (key == "data") {
                data = member;
                has_data = true;
            } else if (key == "id") {
                id = member.get_string();
            } else if (key == "type") {
                type = as_own(member.get_string());
            } else if (key == "subject") {
                subject = member.get_string();
            } else if (key == "cause") {
                cause = member.get_string();
            } else if (key == "frame") {
                frame = member.get_uint64();
            } else if (key == "gametime") {
                time = member.get_string();
            } else if (key == "source" && run_.lines == 0) {
                source_ = std::string_view(member.get_string());
            }
        }
        if (type.empty()) {
            if (run_.lines == 0) {
                foreign();
            }
            fail(recording_fault::bad_line, "the line has no type; the file was changed or damaged");
        }
        if (has_data) {
            take(type, id, cause, subject, time, frame, data);
        } else if (type == "frame") {
            take_frame(time);
        } else if (type == "closed") {
            recorded_channel& which = run_.channels[channel_of(subject)];
            which.open -= which.open != 0 ? 1U : 0U;
        } else {
            fail(recording_fault::bad_line,
                 "the line of type '" + std::string{type} + "' has no data; the file was changed or damaged");
        }
    }

    std::string_view as_own(std::string_view type) const {
        if (!type.starts_with(type_prefix)) {
            if (run_.lines == 0) {
                foreign();
            }
            fail(recording_fault::bad_line, "the line is of type '" + std::string{type} +
                                                "', which recordings do not have; the file was changed or damaged");
        }
        return type.substr(type_prefix.size());
    }

    std::uint64_t number_in(std::string_view text) const {
        std::uint64_t number = 0;
        const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), number);
        if (error != std::errc{} || end != text.data() + text.size()) {
            fail(recording_fault::bad_line,
                 "'" + std::string{text} + "' is no number of an event; the file was changed or damaged");
        }
        return number;
    }

    void take(std::string_view type, std::string_view id, std::string_view cause, std::string_view subject,
              std::string_view time, std::uint64_t frame, value data) {
        if (run_.lines == 0 && type != "recording") {
            foreign();
        }
        if (type == "event" || type == "post") {
            take_event(type == "post", id, cause, subject, frame, data.get_object());
        } else if (type == "frame") {
            take_frame(time);
        } else if (type == "subscribed") {
            take_subscribed(subject, data.get_object());
        } else if (type == "ended") {
            take_ended(data.get_object());
        } else if (type == "paused" || type == "resumed") {
            take_paused(type == "paused", data.get_object());
        } else if (type == "channel") {
            take_channel(subject, data.get_object());
        } else if (type == "recording") {
            take_recording(data.get_object());
        } else if (type == "party.ended") {
            run_.parties[static_cast<std::uint32_t>(std::uint64_t{data.get_object()["party"]})].ended = true;
        } else if (type == "waiting") {
            take_waiting(data.get_object());
        } else if (type == "skipped") {
            run_.skipped += std::uint64_t{data.get_object()["events"]};
        } else if (type == "finished") {
            run_.finished = true;
        } else {
            fail(recording_fault::bad_line,
                 "the line is of type 'wired-courier." + std::string{type} +
                     "', which this version does not know; read it with the version that wrote it");
        }
    }

    void take_recording(object data) {
        std::uint64_t format = 0;
        for (const auto& [key, member] : data) {
            if (key == "format") {
                format = member.get_uint64();
            } else if (key == "facts") {
                for (const auto& [name, fact] : members_of(member)) {
                    run_.facts[std::string{name}] = std::string{std::string_view(fact.get_string())};
                }
            }
        }
        if (format != detail::recording_format) {
            fail(recording_fault::wrong_version,
                 "the recording is of format " + std::to_string(format) + ", and this version reads format " +
                     std::to_string(detail::recording_format) + "; read it with the version that wrote it");
        }
        run_.source = unescape(source_);
    }

    static std::string unescape(std::string_view uri) {
        std::string plain;
        uri.remove_prefix(uri.starts_with('/') ? 1 : 0);
        for (std::size_t i = 0; i < uri.size(); ++i) {
            unsigned code = 0;
            if (uri[i] == '%' && i + 2 < uri.size() + 0 &&
                std::from_chars(uri.data() + i + 1, uri.data() + i + 3, code, 16).ec == std::errc{}) {
                plain += static_cast<char>(code);
                i += 2;
            } else {
                plain += uri[i];
            }
        }
        return plain;
    }

    std::uint32_t channel_of(std::string_view name) {
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

    void take_channel(std::string_view name, object data) {
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

    void take_subscribed(std::string_view channel, object data) {
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

    static std::uint32_t number32(const value& from) { return static_cast<std::uint32_t>(from.get_uint64().value()); }

    recorded_subscription* subscription(std::uint32_t number) {
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

    void take_ended(object data) {
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

    void take_paused(bool is_paused, object data) {
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

    void take_frame(std::string_view time) {
        // ISO 8601, as the recorder writes it: PT12.5S
        std::int64_t ns = 0;
        double seconds = 0;
        const bool negative = time.starts_with('-');
        const std::size_t from = time.find("PT");
        if (from != std::string_view::npos) {
            const std::string digits{time.substr(from + 2)};
            seconds = std::strtod(digits.c_str(), nullptr);
        }
        ns = static_cast<std::int64_t>(seconds * 1e9 + (seconds < 0 ? -0.5 : 0.5));
        run_.frame_times.push_back(negative ? -ns : ns);
    }

    void take_waiting(object data) {
        run_.waiting.clear();
        for (const value one : items_of(data["sequences"].value())) {
            waiting_books waits;
            for (const auto& [key, member] : members_of(one)) {
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
                } else if (key == "hopeless") {
                    waits.hopeless = member.get_bool();
                }
            }
            run_.waiting.push_back(std::move(waits));
        }
    }

    static code_line line_in(std::string_view text) {
        const std::size_t colon = text.find_last_of(':');
        code_line line{std::string{text.substr(0, colon)}, 0};
        if (colon != std::string_view::npos) {
            std::from_chars(text.data() + colon + 1, text.data() + text.size(), line.line);
        }
        return line;
    }

    void take_event(bool is_post, std::string_view id, std::string_view cause, std::string_view subject,
                    std::uint64_t frame, object data) {
        recorded_event event;
        event.id = number_in(id);
        event.cause = cause.empty() ? 0 : number_in(cause);
        event.frame = static_cast<std::uint32_t>(frame);
        event.channel = channel_of(subject);
        event.is_post = is_post;
        event.first_heard = static_cast<std::uint32_t>(run_.heard.size());
        event.first_missed = static_cast<std::uint32_t>(run_.missed.size());
        for (const auto& [key, member] : data) {
            take_of_event(event, key, member);
        }
        event.heard = static_cast<std::uint32_t>(run_.heard.size()) - event.first_heard;
        event.missed = static_cast<std::uint32_t>(run_.missed.size()) - event.first_missed;
        newest_event_ = std::max(newest_event_, event.id);
        if (!is_post) {
            ++published_[event.channel];
            if (event.stopped) {
                note_stopped(event);
            }
        }
        run_.events.push_back(event);
    }

    void take_of_event(recorded_event& event, std::string_view key, const value& from) {
        if (key == "at") {
            event.at = text(from, newest_at_);
        } else if (key == "heard") {
            for (const value one : items_of(from)) {
                const std::uint32_t number = number32(one);
                run_.heard.push_back(number);
                if (recorded_subscription* const s = subscription(number); s != nullptr) {
                    ++s->turns[turn::served];
                }
            }
        } else if (key == "payload") {
            if (keep_payloads_) {
                const std::string raw = simdjson::minify(from);
                event.payload = run_.payloads.size();
                event.payload_size = static_cast<std::uint32_t>(raw.size());
                run_.payloads += raw;
            }
        } else if (key == "in") {
            event.handling = number32(from);
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
        } else if (key == "outside") {
            event.outside = from.get_bool();
        } else if (key == "retained") {
            event.retained = from.get_bool();
        } else if (key == "refused") {
            event.refused = from.get_bool();
        } else if (key == "vacant") {
            event.vacant = from.get_bool();
        } else if (key == "merged") {
            event.merged = from.get_bool();
        } else if (key == "turnedaway") {
            event.turned_away = from.get_bool();
        }
    }

    // Most often the same as in the event before.
    std::uint32_t text(const value& from, std::uint32_t& newest) {
        const std::string_view plain = from.get_string();
        if (run_.texts[newest] != plain) {
            newest = run_.texts.number_of(plain);
        }
        return newest;
    }

    void take_took(const value& from) {
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

    void take_missed(const value& from) {
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
    void note_stopped(const recorded_event& event) {
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

    run& run_;
    bool keep_payloads_;
    simdjson::dom::parser parser_;
    simdjson::dom::parser together_; ///< for many lines at once; finds their structure on a second thread
    std::string copy_;
    std::string source_;
    std::unordered_map<std::uint32_t, std::uint32_t> channels_; ///< by the number of their name
    std::vector<std::uint64_t> published_;                      ///< by channel
    std::vector<recorded_subscription*> quick_;                 ///< by number
    std::uint32_t newest_channel_ = UINT32_MAX;
    std::uint32_t newest_at_ = 0;
    std::uint32_t newest_by_ = 0;
    std::uint64_t newest_event_ = 0;
    std::size_t sorted_ = 0; ///< of the events, that many are in order
};

run_builder::run_builder(run& into, std::string file, const read_options& options)
    : all_(std::make_unique<implementation>(into, std::move(file), options)) {}

run_builder::~run_builder() = default;

void run_builder::line(std::string_view text, std::size_t room) {
    all_->line(text, room);
}

void run_builder::lines(std::string_view text, std::size_t room) {
    all_->lines(text, room);
}

void run_builder::expect(std::uint64_t bytes) {
    all_->expect(bytes);
}

void run_builder::done() {
    all_->done();
}

} // namespace courier::inline WIRED_COURIER_ABI
