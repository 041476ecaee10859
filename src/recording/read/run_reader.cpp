// SPDX-License-Identifier: MIT
// From lines of JSON to a run.
#include <courier/recording/run_builder.hpp>

#include "recording/limits.hpp"
#include "recording/read/line_taker.hpp"

#include <algorithm>
#include <string>
#include <string_view>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN

namespace {

constexpr std::string_view type_prefix = "wired-courier.";

} // namespace

class run_builder::implementation {
public:
    implementation(run& into, std::string file, const read_options& options) : run_(into), taker_(into, options) {
        run_.file = std::move(file);
    }

    void line(std::string_view text, std::size_t room) {
        constexpr std::string_view byte_order_mark = "\xEF\xBB\xBF";
        if (run_.lines == 0 && text.starts_with(byte_order_mark)) {
            text.remove_prefix(byte_order_mark.size()); // as editors put it there
        }
        if (text.size() > detail::longest_line) {
            taker_.fail(recording_code::line_too_long,
                        "the line has over " + std::to_string(detail::longest_line) + " bytes, more than any event",
                        "look whether this is a recording");
        }
        try {
            parser_.one(text, room, [this](detail::json_cursor whole) { take_line(whole); });
        } catch (const detail::json_misfit& error) {
            if (detail::is_not_utf8(error)) {
                taker_.fail(recording_code::not_utf8, "the line is not UTF-8");
            }
            if (run_.lines == 0) {
                taker_.foreign();
            }
            taker_.fail(recording_code::bad_line,
                        std::string("the line is not an event of a recording (") + error.what() + ")");
        }
        ++run_.lines;
    }

    // Whole lines, with room behind them. At the first one that is not in order
    // the rest is read line by line, which tells what is wrong.
    void lines(std::string_view text, std::size_t room) {
        std::size_t good = 0; // bytes
        if (run_.lines != 0 && !has_long_line(text)) {
            good = parser_.together(text, [this](detail::json_cursor whole) {
                take_line(whole);
                ++run_.lines;
            });
        }
        while (good < text.size()) {
            const std::size_t end = text.find('\n', good);
            line(text.substr(good, end - good), room + text.size() - end);
            good = end + 1;
        }
    }

    void expect(std::uint64_t bytes) {
        constexpr std::uint64_t bytes_in_a_line = 250;
        constexpr std::uint64_t most = 1U << 24;
        run_.events.reserve(static_cast<std::size_t>(std::min(bytes / bytes_in_a_line, most)));
    }

    void done() {
        // Sorts the new events, and moves only those older ones that belong after a new one.
        const auto fresh = run_.events.begin() + static_cast<std::ptrdiff_t>(sorted_);
        if (!std::is_sorted(fresh, run_.events.end(), by_id)) {
            std::sort(fresh, run_.events.end(), by_id);
        }
        auto first = fresh;
        if (sorted_ != 0 && fresh != run_.events.end()) {
            first = std::lower_bound(run_.events.begin(), fresh, *fresh, by_id);
            std::inplace_merge(first, fresh, run_.events.end(), by_id);
            first -= first != run_.events.begin() ? 1 : 0;
        }
        const auto twice =
            std::adjacent_find(first, run_.events.end(), [](const auto& a, const auto& b) { return a.id == b.id; });
        if (twice != run_.events.end()) {
            taker_.fail(recording_code::bad_line,
                        "event " + std::to_string(twice->id) + " is there twice, here or in an earlier line");
        }
        sorted_ = run_.events.size();
    }

    void keep_newest(std::size_t events) {
        if (run_.events.size() > events) {
            taker_.forget(run_.events.size() - (events - events / 4));
            sorted_ = run_.events.size();
        }
    }

private:
    static bool by_id(const recorded_event& a, const recorded_event& b) noexcept { return a.id < b.id; }

    static bool has_long_line(std::string_view text) {
        for (std::size_t at = 0; text.size() - at > detail::usual_line;) {
            const std::size_t end = text.substr(at, detail::usual_line).rfind('\n');
            if (end == std::string_view::npos) {
                return true;
            }
            at += end + 1;
        }
        return false;
    }

    void take_line(detail::json_cursor whole) {
        detail::parsed_line line;
        for (; !whole.is_over(); whole.next()) {
            const std::string_view key = whole.key();
            const detail::json_node member = whole.value();
            if (key == "data") {
                line.data = member;
                line.has_data = true;
            } else if (key == "id") {
                line.id = member.text();
            } else if (key == "type") {
                line.type = as_own(member.text());
            } else if (key == "subject") {
                line.subject = member.text();
            } else if (key == detail::channel_link::number_key) {
                line.channel = detail::number32(member);
            } else if (key == "cause") {
                line.cause = member.text();
            } else if (key == "frame") {
                line.frame = member.number();
            } else if (key == "gametime") {
                line.time = member.text();
            } else if (key == "source" && run_.lines == 0) {
                taker_.source = member.text();
            }
        }
        if (line.type.empty()) {
            if (run_.lines == 0) {
                taker_.foreign();
            }
            taker_.fail(recording_code::bad_line, "the line has no type");
        }
        taker_.take(line);
    }

    std::string_view as_own(std::string_view type) const {
        if (!type.starts_with(type_prefix)) {
            if (run_.lines == 0) {
                taker_.foreign();
            }
            taker_.fail(recording_code::bad_line,
                        "the line is of type '" + std::string{type} + "', which recordings do not have");
        }
        return type.substr(type_prefix.size());
    }

    run& run_;
    detail::line_taker taker_;
    detail::line_parser parser_;
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

void run_builder::keep_newest(std::size_t events) {
    all_->keep_newest(events);
}

WIRED_COURIER_NAMESPACE_END
