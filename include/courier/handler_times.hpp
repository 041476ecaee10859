// How long handlers took.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>

#include <array>
#include <cstdint>

WIRED_COURIER_NAMESPACE_BEGIN

/// Time spent in handlers, of the turns that were measured; in nanoseconds of
/// the machine's clock.
struct handler_times {
    std::uint64_t measured = 0; ///< turns
    std::uint64_t worst = 0;
    std::uint64_t typical = 0; ///< the upper end of the power of two in which the middle one lies
};

/// Times of handlers, in buckets of powers of two of a nanosecond.
struct handler_time_counts {
    std::uint64_t measured = 0;
    std::uint64_t worst = 0;
    std::array<std::uint32_t, 40> buckets{};

    /// Counts one call of that many nanoseconds.
    void add(std::uint64_t ns) noexcept;
    /// Adds the counts of another one.
    void add(const handler_time_counts& other) noexcept;
    /// In the form of a report.
    [[nodiscard]] handler_times sum_up() const noexcept;
};

WIRED_COURIER_NAMESPACE_END
