// A text without the blanks around it.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>

#include <string_view>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

[[nodiscard]] inline std::string_view trimmed(std::string_view text) noexcept {
    constexpr std::string_view blanks = " \t\r";
    const std::size_t first = text.find_first_not_of(blanks);
    return first == std::string_view::npos ? std::string_view()
                                           : text.substr(first, text.find_last_not_of(blanks) - first + 1);
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
