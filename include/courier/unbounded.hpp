// No bound, where an option takes one.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>

#include <concepts>
#include <cstddef>
#include <cstdint>

WIRED_COURIER_NAMESPACE_BEGIN

/// The type of `unbounded`: the largest number of each integer type.
struct no_bound {
    /// The largest number there is.
    template <std::unsigned_integral Number>
    constexpr operator Number() const noexcept { // NOLINT(google-explicit-constructor): written as an option's value
        return static_cast<Number>(-1);
    }
    template <std::unsigned_integral Number>
    friend constexpr bool operator==(Number number, no_bound) noexcept {
        return number == static_cast<Number>(-1);
    }
};

/// Written as `{.limit = courier::unbounded}`.
inline constexpr no_bound unbounded;

namespace detail {

// As numbers, which templates compare with less work for the compiler.
inline constexpr std::uint32_t unbounded_times = unbounded;
inline constexpr std::size_t unbounded_size = unbounded;

} // namespace detail

WIRED_COURIER_NAMESPACE_END
