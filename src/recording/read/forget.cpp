// SPDX-License-Identifier: MIT
// What a run that goes on for ever drops.
#include "recording/read/line_taker.hpp"

#include <cstddef>
#include <string>
#include <utility>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

/// Only what events refer to, in their order.
template <class Item>
void keep_referred(std::vector<recorded_event>& events, std::vector<Item>& list, std::uint32_t recorded_event::*first,
                   std::uint32_t recorded_event::*count) {
    std::vector<Item> kept;
    for (recorded_event& one : events) {
        const auto begin = list.begin() + one.*first;
        one.*first = static_cast<std::uint32_t>(kept.size());
        kept.insert(kept.end(), begin, begin + one.*count);
    }
    list = std::move(kept);
}

} // namespace

void line_taker::forget(std::size_t count) {
    std::vector<recorded_event>& events = run_.events;
    events.erase(events.begin(), events.begin() + static_cast<std::ptrdiff_t>(count));
    run_.forgotten += count;
    keep_referred(events, run_.heard, &recorded_event::first_heard, &recorded_event::heard);
    keep_referred(events, run_.missed, &recorded_event::first_missed, &recorded_event::missed);
    keep_referred(events, run_.took, &recorded_event::first_took, &recorded_event::timed);
    std::string payloads;
    for (recorded_event& one : events) {
        const std::string_view text = run_.payload_of(one);
        one.payload = payloads.size();
        payloads += text;
    }
    run_.payloads = std::move(payloads);
    if (events.empty()) {
        return;
    }
    const std::uint32_t frame = events.front().frame;
    run_.origins.erase(run_.origins.begin(), run_.origins.lower_bound(events.front().id));
    std::erase_if(run_.subscriptions, [=](const auto& one) { return one.second.until < frame; });
    quick_.clear();
    if (frame > run_.first_frame) {
        const std::size_t past = std::min<std::size_t>(frame - run_.first_frame, run_.frame_times.size());
        run_.frame_times.erase(run_.frame_times.begin(), run_.frame_times.begin() + static_cast<std::ptrdiff_t>(past));
        run_.first_frame += static_cast<std::uint32_t>(past);
    }
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
