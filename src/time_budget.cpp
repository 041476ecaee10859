#include <courier/time_budget.hpp>

#include <chrono>
#include <memory>

namespace courier::inline WIRED_COURIER_ABI {

budget time_budget(std::chrono::nanoseconds most) {
    using clock = std::chrono::steady_clock;
    const auto until = std::make_shared<clock::time_point>(clock::now() + most);
    return {.spent = [until] { return clock::now() >= *until; },
            .begin = [until, most] { *until = clock::now() + most; }};
}

} // namespace courier::inline WIRED_COURIER_ABI
