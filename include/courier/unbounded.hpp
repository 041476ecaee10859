// No bound, where an option takes one.
#pragma once

#include <courier/config.hpp>

#include <concepts>
#include <limits>

WIRED_COURIER_NAMESPACE_BEGIN

/// The type of `unbounded`: the largest number of each integer type.
struct no_bound {
    template <std::unsigned_integral Number>
    constexpr operator Number() const noexcept { // NOLINT(google-explicit-constructor): written as an option's value
        return std::numeric_limits<Number>::max();
    }
    template <std::unsigned_integral Number>
    friend constexpr bool operator==(Number number, no_bound) noexcept {
        return number == std::numeric_limits<Number>::max();
    }
};

/// Written as `{.limit = courier::unbounded}`.
inline constexpr no_bound unbounded;

WIRED_COURIER_NAMESPACE_END
