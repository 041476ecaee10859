// What became of a subscription whose turn had come.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>

#include <cstddef>
#include <cstdint>
#include <string_view>

WIRED_COURIER_NAMESPACE_BEGIN

/// What became of a subscription in one publish.
enum class turn : std::uint8_t {
    served,
    paused,         ///< it, or its subscriber, was
    asleep,         ///< what its subscriber follows, such as an object of a pool or a level, was
    outside_period, ///< its `.during` did not hold
    condition,      ///< its `.condition` did not hold, or the sequence waited for another one
    filtered,       ///< a pipeline let it fall
    stopped,        ///< a verdict kept it from being reached
    failed,         ///< it was called, and threw
};
/// How many of these there are.
inline constexpr std::size_t turn_kinds = 8;

/// As it is written in recordings and reports, such as "outside its period".
[[nodiscard]] constexpr std::string_view text_of(turn what) noexcept {
    constexpr std::string_view texts[turn_kinds] = {"served",    "paused",   "asleep",  "outside its period",
                                                    "condition", "filtered", "stopped", "failed"};
    return texts[static_cast<std::size_t>(what)];
}

WIRED_COURIER_NAMESPACE_END
