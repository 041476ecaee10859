// SPDX-License-Identifier: MIT
#include <courier/delivery_options.hpp>

#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

// The period may end first.
struct while_running {
    held<period_core> period;
    bool operator()() const noexcept { return period->running; }
};

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

period_core::period_core(bool is_running, std::string_view its_name) : running(is_running), name(its_name) {}

slot_guard guard_of(std::uint32_t times, std::function<bool()>&& open, condition_fn&& condition) {
    return {times == unbounded_times ? 0 : times, both_hold(std::move(open), std::move(condition))};
}

} // namespace detail

during::during(const period& g) : open_(detail::while_running{g.core_}) {}

WIRED_COURIER_NAMESPACE_END
