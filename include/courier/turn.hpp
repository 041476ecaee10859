// What became of a subscription whose turn had come.
#pragma once

#include <courier/config.hpp>

#include <cstddef>
#include <cstdint>
#include <string_view>

namespace courier::inline WIRED_COURIER_ABI {

enum class turn : std::uint8_t {
    served,
    paused,      ///< it, or its subscriber, was
    gate_closed, ///< its `.during` did not hold
    condition,   ///< its `.condition` did not hold, or the sequence waited for another one
    filtered,    ///< a pipeline let it fall
    stopped,     ///< a verdict kept it from being reached
    failed,      ///< it was called, and threw
};
inline constexpr std::size_t turn_kinds = 7;

/// As it is written in recordings and reports, such as "gate closed".
[[nodiscard]] constexpr std::string_view text_of(turn what) noexcept {
    constexpr std::string_view texts[turn_kinds] = {"served",   "paused",  "gate closed", "condition",
                                                    "filtered", "stopped", "failed"};
    return texts[static_cast<std::size_t>(what)];
}

} // namespace courier::inline WIRED_COURIER_ABI
