// SPDX-License-Identifier: MIT
#include <courier/recording/trace_events.hpp>

#include "data/json_text.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cstdint>
#include <iterator>
#include <string>
#include <unordered_map>

WIRED_COURIER_NAMESPACE_BEGIN

namespace {

using detail::quoted_json;

constexpr std::size_t piece = std::size_t{1} << 16;
constexpr int frames_line = 1; ///< the number of the line ("thread") with the frames

class trace_writer {
public:
    trace_writer(const run& of, const std::function<void(std::string_view)>& to) : of_(of), to_(to) {}

    void write() {
        text_ = R"({"displayTimeUnit":"ms","traceEvents":[)"
                "\n";
        add(R"({{"ph":"M","name":"process_name","pid":1,"args":{{"name":{}}}}})", quoted_json(of_.source));
        add(R"({{"ph":"M","name":"thread_name","pid":1,"tid":{},"args":{{"name":"frames"}}}})", frames_line);
        for (std::uint32_t frame = 0; frame < of_.frames(); ++frame) {
            add(R"({{"ph":"X","name":"frame {}","cat":"frame","pid":1,"tid":{},"ts":{:.3f},)"
                R"("dur":{:.3f}}})",
                frame, frames_line, begin_of(frame), length_of(frame));
        }
        for (std::size_t i = 0; i < of_.events.size();) {
            std::size_t end = i;
            while (end < of_.events.size() && of_.events[end].frame == of_.events[i].frame) {
                ++end;
            }
            for (std::size_t k = i; k < end; ++k) {
                write(of_.events[k], k - i, end - i);
            }
            i = end;
        }
        text_ += "\n]}\n";
        to_(text_);
    }

private:
    template <class... Args>
    void add(fmt::format_string<const Args&...> form, const Args&... args) {
        text_ += is_first_ ? "" : ",\n";
        is_first_ = false;
        fmt::format_to(std::back_inserter(text_), form, args...);
        if (text_.size() > piece) {
            to_(text_);
            text_.clear();
        }
    }

    // Microseconds.
    [[nodiscard]] double begin_of(std::uint32_t frame) const { return static_cast<double>(of_.begin_of(frame)) / 1e3; }
    [[nodiscard]] double length_of(std::uint32_t frame) const {
        const double length = frame < of_.frames() ? begin_of(frame + 1) - begin_of(frame) : 0;
        return length > 0 ? length : 1000;
    }

    // The number of a party's line; told when it is first used.
    int line_of(const std::string& party) {
        const auto [found, is_new] = lines_.emplace(party, frames_line + 1 + static_cast<int>(lines_.size()));
        if (is_new) {
            add(R"({{"ph":"M","name":"thread_name","pid":1,"tid":{},"args":{{"name":{}}}}})", found->second,
                quoted_json(party));
        }
        return found->second;
    }

    [[nodiscard]] std::uint32_t ns_of(const recorded_event& e, std::uint32_t subscription) const {
        for (std::uint32_t i = 0; i < e.timed; ++i) {
            if (of_.took[e.first_took + i].subscription == subscription) {
                return of_.took[e.first_took + i].ns;
            }
        }
        return 0;
    }

    void write(const recorded_event& e, std::size_t turn, std::size_t of_frame) {
        const double share = length_of(e.frame) / static_cast<double>(of_frame);
        const double at = begin_of(e.frame) + share * static_cast<double>(turn);
        const std::string name = quoted_json(of_.channels[e.channel].name);
        const int line = line_of(of_.maker_of(e));
        const std::string_view payload = of_.payload_of(e);
        add(R"({{"ph":"X","name":{},"cat":"{}","pid":1,"tid":{},"ts":{:.3f},"dur":{:.3f},)"
            R"("args":{{"event":{},"at":{},"payload":{}}}}})",
            name, e.is_post ? "post" : "publish", line, at, share * 0.9, e.id, quoted_json(of_.texts[e.at]),
            payload.empty() ? std::string_view("null") : payload);
        if (const recorded_event* const cause = e.cause != 0 ? of_.find(e.cause) : nullptr) {
            const auto before = static_cast<std::size_t>(cause - of_.events.data());
            add(R"({{"ph":"s","name":"causes","cat":"cause","pid":1,"tid":{},"ts":{:.3f},"id":{}}})",
                line_of(of_.maker_of(*cause)), place_of(before), e.id);
            add(R"({{"ph":"f","bp":"e","name":"causes","cat":"cause","pid":1,"tid":{},"ts":{:.3f},)"
                R"("id":{}}})",
                line, at, e.id);
        }
        for (std::uint32_t i = 0; i < e.heard; ++i) {
            const std::uint32_t subscription = of_.heard[e.first_heard + i];
            const std::uint32_t ns = ns_of(e, subscription);
            const double length = ns != 0 ? std::min(ns / 1e3, share * 0.9) : share * 0.5;
            add(R"({{"ph":"X","name":{},"cat":"handler","pid":1,"tid":{},"ts":{:.3f},"dur":{:.3f},)"
                R"("args":{{"event":{},"ns":{}}}}})",
                name, line_of(of_.name_of(subscription)), at, length, e.id, ns);
        }
    }

    // When an event was, which is known of its frame's events only.
    [[nodiscard]] double place_of(std::size_t index) const {
        const std::uint32_t frame = of_.events[index].frame;
        const auto by_frame = [](const recorded_event& e, std::uint32_t f) { return e.frame < f; };
        const auto first = std::lower_bound(of_.events.begin(), of_.events.end(), frame, by_frame);
        const auto past = std::lower_bound(first, of_.events.end(), frame + 1, by_frame);
        const auto turn = static_cast<double>(index) - static_cast<double>(first - of_.events.begin());
        return begin_of(frame) + length_of(frame) / static_cast<double>(past - first) * turn;
    }

    const run& of_;
    const std::function<void(std::string_view)>& to_;
    std::string text_;
    bool is_first_ = true;
    std::unordered_map<std::string, int> lines_;
};

} // namespace

void write_trace_events(const run& of, const std::function<void(std::string_view)>& to) {
    trace_writer(of, to).write();
}

WIRED_COURIER_NAMESPACE_END
