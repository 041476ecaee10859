// How events and posts are written.
#include "recording/write/json_text.hpp"
#include "recording/write/line_writer.hpp"

#include <courier/turn.hpp>

#include <algorithm>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

line_writer::event_head line_writer::take_head(packed_reader& in) noexcept {
    event_head first{};
    first.id = in.take<std::uint64_t>();
    first.cause = in.take<std::uint64_t>();
    first.in_handler = in.take<std::uint32_t>();
    first.on = in.take<std::uint32_t>();
    first.where = in.take<std::uint32_t>();
    return first;
}

void line_writer::begin_event(std::string_view kind, const event_head& first) {
    head(kind, "", first.id);
    subject(channel_named(first.on));
    if (first.cause != 0) {
        put(R"(,"cause":")");
        number(first.cause);
        put("\"");
    }
    put(R"(,"data":{)");
    put(first.where < sites_.size() && !sites_[first.where].empty() ? std::string_view{sites_[first.where]}
                                                                    : std::string_view{R"("at":"?:0")"});
    if (first.in_handler != 0) {
        put(R"(,"in_handler":)");
        number(first.in_handler);
    }
}

void line_writer::address(std::string_view to) {
    if (!to.empty()) {
        put(R"(,"to":)");
        name(to);
    }
}

void line_writer::turns(packed_reader& in) {
    const auto count = in.take<std::uint32_t>();
    packed_reader again = in;
    const auto each = [&](std::string_view key, auto want, auto write) {
        packed_reader from = again;
        bool first = true;
        for (std::uint32_t i = 0; i < count; ++i) {
            const auto subscription = from.take<std::uint32_t>();
            const auto took = from.take<std::uint32_t>();
            const auto why = from.take<turn>();
            if (want(took, why)) {
                put(first ? key : ",");
                first = false;
                write(subscription, took, why);
            }
        }
        in = from;
        put(first ? "" : "]");
    };
    each(R"(,"heard":[)", [](std::uint32_t, turn why) { return why == turn::served; },
         [this](std::uint32_t subscription, std::uint32_t, turn) { number(subscription); });
    each(R"(,"missed":[)", [](std::uint32_t, turn why) { return why != turn::served; },
         [this](std::uint32_t subscription, std::uint32_t, turn why) {
             put("[");
             number(subscription);
             put(",\"");
             put(text_of(why));
             put("\"]");
         });
    each(R"(,"took":[)", [](std::uint32_t took, turn) { return took != 0; },
         [this](std::uint32_t subscription, std::uint32_t took, turn) {
             put("[");
             number(subscription);
             put(",");
             number(took);
             put("]");
         });
}

void line_writer::event(packed_reader& in) {
    const event_head first = take_head(in);
    const auto stopped_by = in.take<std::uint32_t>();
    const auto flags = in.take<std::uint8_t>();
    begin_event("event", first);
    address(in.take_text());
    constexpr std::pair<event_flag, std::string_view> texts[] = {{flag_outside, R"(,"outside":true)"},
                                                                 {flag_retained, R"(,"retained":true)"},
                                                                 {flag_refused, R"(,"refused":true)"},
                                                                 {flag_vacant, R"(,"vacant":true)"},
                                                                 {flag_closed, R"(,"closed":true)"}};
    for (const auto& [flag, as_text] : texts) {
        put((flags & flag) != 0 ? as_text : "");
    }
    if ((flags & flag_stopped) != 0) {
        put(R"(,"stopped":)");
        number(stopped_by);
    }
    const std::size_t head_end = to_->size();
    turns(in);
    payload(in, in.take<std::uint32_t>());
    leave_out_what_is_too_long(head_end);
    put("}");
    end();
}

void line_writer::leave_out_what_is_too_long(std::size_t from) {
    const std::size_t bytes = to_->size() - from;
    if (bytes > longest_line / 2) {
        to_->resize(from);
        put(R"(,"left_out":)");
        number(bytes);
    }
}

void line_writer::post(packed_reader& in) {
    const event_head first = take_head(in);
    const auto outcome = in.take<std::uint8_t>();
    const auto outside = in.take<bool>();
    const std::string_view outbox = in.take_text();
    begin_event("post", first);
    put(R"(,"outbox":)");
    name(outbox);
    address(in.take_text());
    put(outcome == 1 ? R"(,"merged":true)" : outcome == 2 ? R"(,"turned_away":true)" : "");
    put(outside ? R"(,"outside":true)" : "");
    const std::size_t head_end = to_->size();
    payload(in, in.take<std::uint32_t>());
    leave_out_what_is_too_long(head_end);
    put("}");
    end();
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
