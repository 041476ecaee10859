// The game's own time.
#pragma once

#include <courier/config.hpp>

// All of <chrono> costs a file that includes it a third of a second, for its
// calendars and their texts. Where the library has durations by themselves,
// those are enough; who writes `16ms` includes <chrono> anyway.
#if __has_include(<bits/chrono.h>)
#include <bits/chrono.h> // IWYU pragma: keep
#else
#include <chrono>
#endif

WIRED_COURIER_NAMESPACE_BEGIN

/// Time as the game counts it: advanced by the caller, never by a clock.
using game_time = std::chrono::nanoseconds;

/// A time that does not come: what is asked for then waits until it is
/// cancelled. Times that are too far away to be told are this one, too.
inline constexpr game_time never = game_time::max();

namespace detail {

/// `delay` after `from`, or `never` when that is too far away.
[[nodiscard]] constexpr game_time later_by(game_time from, game_time delay) noexcept {
    return delay > game_time::zero() && from > never - delay ? never : from + delay;
}

} // namespace detail

WIRED_COURIER_NAMESPACE_END
