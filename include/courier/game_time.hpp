// The game's own time.
// SPDX-License-Identifier: MIT
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
#include <type_traits>

WIRED_COURIER_NAMESPACE_BEGIN

/// Time as the game counts it: advanced by the caller, never by a clock.
using game_time = std::chrono::nanoseconds;

/// A time that does not come: a timer for it waits until it
/// ends. Times too large to represent become this one, too.
inline constexpr game_time never = game_time::max();

/// A length of game time as a parameter: any duration of the standard library.
/// One in floating-point seconds, such as an engine's step, is rounded to the
/// nearest nanosecond; one too long to represent is `never`, and one that is not a number
/// is zero.
class time_span {
public:
    constexpr time_span() noexcept = default;
    /// From any duration. Fractions are rounded to a nanosecond; what does not fit becomes `never`, a NaN
    /// zero.
    template <class Rep, class Period>
    constexpr time_span(std::chrono::duration<Rep, Period> span) noexcept // NOLINT(google-explicit-constructor)
        : span_(rounded(span)) {}

    /// A plain number has no unit.
    template <class Number>
        requires std::is_arithmetic_v<Number>
    constexpr time_span(Number) noexcept { // NOLINT(google-explicit-constructor): to say what is missing
        static_assert(!std::is_arithmetic_v<Number>, "courier: a time needs a unit: 2s, 16ms, or "
                                                     "std::chrono::duration<float>(dt) for seconds of an engine");
    }

    /// As a duration.
    constexpr operator game_time() const noexcept { return span_; } // NOLINT(google-explicit-constructor)
    /// Nanoseconds.
    [[nodiscard]] constexpr game_time::rep count() const noexcept { return span_.count(); }

private:
    template <class Rep, class Period>
    static constexpr game_time rounded(std::chrono::duration<Rep, Period> span) noexcept {
        if constexpr (std::chrono::treat_as_floating_point_v<Rep>) {
            const double ns = std::chrono::duration<double, std::nano>(span).count();
            constexpr double most = 9.2e18;
            return ns >= most    ? never
                   : ns <= -most ? -never
                   : ns == ns    ? game_time(static_cast<game_time::rep>(ns + (ns < 0 ? -0.5 : 0.5))) // not a NaN
                                 : game_time::zero();
        } else {
            return span;
        }
    }

    game_time span_{};
};

namespace detail {

/// `delay` after `from`, or `never` when that is too far away.
[[nodiscard]] constexpr game_time later_by(game_time from, game_time delay) noexcept {
    return delay > game_time::zero() && from > never - delay ? never : from + delay;
}

} // namespace detail

WIRED_COURIER_NAMESPACE_END
