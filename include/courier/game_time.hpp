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

namespace courier::inline WIRED_COURIER_ABI {

/// Time as the game counts it: advanced by the caller, never by a clock.
using game_time = std::chrono::nanoseconds;

} // namespace courier::inline WIRED_COURIER_ABI
