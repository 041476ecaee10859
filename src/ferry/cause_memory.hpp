// Which trace an event belongs to, as far back as can be known.
// SPDX-License-Identifier: MIT
#pragma once

#include "ferry/crossing_id.hpp"

#include <courier/config.hpp>

#include <array>
#include <cstdint>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// Belongs to the game's thread, and asks the ledger that it has.
class cause_memory {
public:
    explicit cause_memory(std::uint64_t run) noexcept : run_(run) {}

    /// The event that is being handled; 0: none, or nobody counts.
    [[nodiscard]] static std::uint64_t event_here() noexcept;
    /// The trace that it belongs to.
    [[nodiscard]] trace_id trace_of(std::uint64_t event) noexcept;
    /// The next event comes from elsewhere, and belongs to that trace.
    void next_is_of(trace_id trace) noexcept;

private:
    struct known {
        std::uint64_t event = 0;
        std::uint32_t ledger = 0;
        trace_id trace;
    };
    static constexpr std::size_t remembered = 4096;
    [[nodiscard]] known& place_of(std::uint64_t event) noexcept { return known_[event % remembered]; }

    const std::uint64_t run_;
    std::array<known, remembered> known_{};
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
