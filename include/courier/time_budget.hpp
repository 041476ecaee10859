// A budget of time by the clock on the wall.
#pragma once

#include <courier/budget.hpp>
#include <courier/config.hpp>

#include <chrono>
#include <memory>

namespace courier::inline WIRED_COURIER_ABI {

/// So much time from when something begins that has this budget. By the clock
/// on the wall: what is delivered then may differ from run to run. Copies count
/// from the newest beginning of any of them.
inline budget time_budget(std::chrono::nanoseconds most) {
    const auto until = std::make_shared<std::chrono::steady_clock::time_point>(std::chrono::steady_clock::now() + most);
    return {.spent = [until] { return std::chrono::steady_clock::now() >= *until; },
            .begin = [until, most] { *until = std::chrono::steady_clock::now() + most; }};
}

} // namespace courier::inline WIRED_COURIER_ABI
