// SPDX-License-Identifier: MIT
#include <courier/delivery_options.hpp>

#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

turn state_of_period(const std::function<bool()>& running) {
    return running() ? turn::served : turn::outside_period;
}

condition_fn both_hold(std::function<bool()>&& open, condition_fn&& condition) {
    if (!open) {
        return std::move(condition);
    }
    if (!condition) {
        return [open = std::move(open)](const void*) { return state_of_period(open); };
    }
    return [open = std::move(open), condition = std::move(condition)](const void* payload) {
        const turn state = state_of_period(open);
        return state == turn::served ? condition(payload) : state;
    };
}

} // namespace

slot_guard guard_of(std::uint32_t times, std::function<bool()>&& open, condition_fn&& condition) {
    return {times == unbounded_times ? 0 : times, both_hold(std::move(open), std::move(condition))};
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
