// A budget of time by the clock on the wall.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/budget.hpp>
#include <courier/config.hpp>
#include <courier/game_time.hpp>

WIRED_COURIER_NAMESPACE_BEGIN

/// This much time from the beginning of a call that has this budget. By the clock
/// on the wall: the delivered part may differ from run to run. Copies count
/// from the newest beginning of any of them.
[[nodiscard]] budget time_budget(std::chrono::nanoseconds most);

WIRED_COURIER_NAMESPACE_END
