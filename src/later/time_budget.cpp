// SPDX-License-Identifier: MIT
#include <courier/time_budget.hpp>

#include <chrono>
#include <memory>

WIRED_COURIER_NAMESPACE_BEGIN

budget time_budget(std::chrono::nanoseconds most) {
    using clock = std::chrono::steady_clock;
    const auto until = std::make_shared<clock::time_point>(clock::now() + most);
    return {.spent = [until] { return clock::now() >= *until; },
            .begin = [until, most] { *until = clock::now() + most; }};
}

WIRED_COURIER_NAMESPACE_END
