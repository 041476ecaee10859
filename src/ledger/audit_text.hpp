// How findings and faults name things.
// SPDX-License-Identifier: MIT
#pragma once

#include "delivery/subscription_words.hpp"

#include <courier/books.hpp>
#include <courier/config.hpp>

#include <cstddef>
#include <cstdint>
#include <string>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

inline std::string times(std::uint64_t count) {
    return count == 1 ? "once" : count == 2 ? "twice" : std::to_string(count) + " times";
}

/// Why turns came to nothing, and how often each.
inline std::string reasons(const turn_counts& turns) {
    std::string list;
    for (std::size_t i = 1; i < turn_kinds; ++i) {
        if (turns.of[i] != 0) {
            list += (list.empty() ? "" : ", ") + std::string{text_of(static_cast<turn>(i))} + " " + times(turns.of[i]);
        }
    }
    return list.empty() ? "its turn never came" : list;
}

/// "3 payloads wait", "1 payload waited", "2 payloads or calls wait".
inline std::string waiting_text(std::uint64_t count, waiting_kind kind, bool is_over) {
    const bool is_one = count == 1;
    std::string made = std::to_string(count) + (is_one ? " payload" : " payloads");
    if (kind == waiting_kind::timetable) {
        made += is_one ? " or call" : " or calls";
    }
    return made + (is_over ? " waited" : is_one ? " waits" : " wait");
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
