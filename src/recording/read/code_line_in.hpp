// Places, as recordings write them.
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

} // namespace detail
WIRED_COURIER_NAMESPACE_END
