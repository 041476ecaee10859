// How often something comes that comes at every interval.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>

#include <cstdint>

WIRED_COURIER_NAMESPACE_BEGIN

/// The effect of a frame that is longer than an interval.
enum class missed_beats : std::uint8_t {
    each, ///< all beats that fell into it come, each in its place among everything else that fell due
    once, ///< one comes for all of them; the next one is in time again
};

/// Of `timetable::every()` and `subscriber::every()`.
struct timer_options {
    missed_beats missed = missed_beats::each;
};

namespace detail {

/// Every `interval` nanoseconds, or just once if that is zero.
struct repetition {
    std::int64_t interval = 0;
    missed_beats missed = missed_beats::each;
};

} // namespace detail

WIRED_COURIER_NAMESPACE_END
