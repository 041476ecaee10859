// SPDX-License-Identifier: MIT
// Rules of the audit that need the books only.
#include "ledger/audit_text.hpp"
#include "ledger/finding_list.hpp"

#include <algorithm>
#include <array>
#include <cstddef>
#include <string>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

void find_orders(finding_list& in) {
    for (const order_books& o : in.of.orders) {
        const std::string pair = who(o.first_name) + " and " + who(o.second_name);
        const std::string how = o.how == order_matter::stops  ? "the first stops what is for the second"
                                : o.how == order_matter::ends ? "the first ends or pauses the second"
                                                              : "both publish on " + quoted(o.on);
        in.add(finding_code::order_matters,
               std::string("on ")
                   .append(quoted(o.channel))
                   .append(" the order of ")
                   .append(pair)
                   .append(" matters, and they share a stage: ")
                   .append(how)
                   .append(", ")
                   .append(times(o.times)),
               o.first.text() + ", " + o.second.text(), "put one of them into a stage before or after the other",
               o.channel, o.first_name, o.first_frame);
    }
}

void find_nothing_seen(finding_list& in) {
    const auto count =
        std::count_if(in.of.channels.begin(), in.of.channels.end(), [](const channel_books& c) { return !c.is_owned; });
    if (count == 0) {
        in.add(finding_code::nothing_seen, "no channel is in these books, so nothing can be said", "",
               "call attach_everything() early in main(), or attach the channels or hubs that matter", "", "", 0);
    } else if (in.of.events == 0 && in.long_enough(0)) {
        in.add(finding_code::nothing_seen,
               "nothing was published on the " + std::to_string(count) + (count == 1 ? " channel" : " channels") +
                   " in these books",
               "", "see whether the ledger was attached before the game ran", "", "", 0);
    }
}

void find_reads_nothing(finding_list& in) {
    for (const idle_refresher_books& one : in.of.idle_refreshers) {
        in.add(finding_code::reads_nothing,
               "a refresher of " + who(one.subscriber) + " ran and read no state, so it will not run again",
               one.where.text(), "read the state with read() inside the refresher, or call the function once by hand",
               "refreshers", one.subscriber, 0);
    }
}

void find_left_waiting(finding_list& in) {
    for (const left_waiting_books& box : in.of.left_waiting) {
        if (in.of.frames != 0 ? in.long_enough(box.since_frame, box.ended_frame) : !box.was_called) {
            const auto kind = static_cast<std::size_t>(box.kind);
            constexpr std::array<const char*, 3> calls{"deliver()", "take_in()", "advance()"};
            constexpr std::array<const char*, 3> places{"an outbox", "an inbox", "a timetable"};
            const std::string call = calls[kind];
            std::string waits = waiting_text(box.payloads, box.kind, box.ended_frame.has_value());
            const std::string place = places[kind];
            waits.append(" in ").append(box.name.empty() ? place
                                                         : place.substr(place.find(' ') + 1) + " " + quoted(box.name));
            waits.append(", and ").append(call).append(box.ended_frame ? " was not called before it ended"
                                                                       : " is not called");
            in.add(finding_code::left_waiting, std::move(waits), box.posted.file.empty() ? "" : box.posted.text(),
                   "call " + call + " in each frame, or give it to a courier::frame_driver", "", "", box.since_frame);
        }
    }
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
