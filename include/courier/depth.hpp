// How deeply publishes may nest.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>

#include <cstdint>

WIRED_COURIER_NAMESPACE_BEGIN

/// The depth at which publishes start out being refused.
inline constexpr std::uint32_t default_depth_limit = 64;

/// A publish made from a handler is nested in the publish that called the
/// handler; at `limit` publishes inside one another the next is refused, with
/// `fault_code::too_deep` and the chain of channels. Holds for the whole
/// process; at least 1. Thread-safe.
void set_depth_limit(std::uint32_t limit) noexcept;

/// The limit that holds. Thread-safe.
[[nodiscard]] std::uint32_t depth_limit() noexcept;

WIRED_COURIER_NAMESPACE_END
