#include <courier/delivery.hpp>
#include <courier/detail/oversight.hpp>

#include <utility>

namespace courier::inline WIRED_COURIER_ABI::detail {

namespace {

bool is_open(const std::function<bool()>& open) {
    const bool holds = open();
    if (!holds && overseen()) {
        this_oversight.gate_closed = true;
    }
    return holds;
}

} // namespace

condition_fn both_hold(std::function<bool()> open, condition_fn condition) {
    if (!open) {
        return condition;
    }
    if (!condition) {
        return [open = std::move(open)](const void*) { return is_open(open); };
    }
    return [open = std::move(open), condition = std::move(condition)](const void* payload) {
        return is_open(open) && condition(payload);
    };
}

} // namespace courier::inline WIRED_COURIER_ABI::detail
