#include <courier/delivery.hpp>

#include <utility>

namespace courier::inline WIRED_COURIER_ABI::detail {

condition_fn both_hold(std::function<bool()> open, condition_fn condition) {
    if (!open) {
        return condition;
    }
    if (!condition) {
        return [open = std::move(open)](const void*) { return open(); };
    }
    return [open = std::move(open), condition = std::move(condition)](const void* payload) {
        return open() && condition(payload);
    };
}

} // namespace courier::inline WIRED_COURIER_ABI::detail
