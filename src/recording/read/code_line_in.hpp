// Places, as recordings write them.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/books.hpp>
#include <courier/config.hpp>

#include <charconv>
#include <cstdint>
#include <string>
#include <string_view>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// The inverse of `code_line::text()`. What ends with no number is a place that has no lines.
[[nodiscard]] inline code_line code_line_in(std::string_view text) {
    const std::size_t colon = text.find_last_of(':');
    std::uint32_t line = 0;
    if (colon != std::string_view::npos) {
        const char* const end = text.data() + text.size();
        const auto [past, error] = std::from_chars(text.data() + colon + 1, end, line);
        if (error == std::errc{} && past == end) {
            return {std::string(text.substr(0, colon)), line};
        }
    }
    return {std::string(text), 0};
}

/// The part of a path behind its folders.
[[nodiscard]] inline std::string_view last_part(std::string_view path) noexcept {
    return path.substr(path.find_last_of('/') + 1);
}

/// The file's name of a line of code; a place that has no lines as it is.
[[nodiscard]] inline std::string file_in(std::string_view text) {
    const code_line at = code_line_in(text);
    return at.line == 0 ? at.file : std::string(last_part(at.file));
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
