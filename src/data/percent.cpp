// SPDX-License-Identifier: MIT
#include "data/percent.hpp"

#include <charconv>
#include <cstddef>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

bool is_unreserved(char c) noexcept {
    return (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || (c >= '0' && c <= '9') || c == '-' || c == '.' ||
           c == '_' || c == '~';
}

std::string percent_encoded(std::string_view plain) {
    constexpr char digits[] = "0123456789ABCDEF";
    std::string made;
    for (const char c : plain) {
        const auto byte = static_cast<unsigned char>(c);
        if (is_unreserved(c)) {
            made += c;
        } else {
            made += {'%', digits[byte >> 4U], digits[byte & 15U]};
        }
    }
    return made;
}

std::optional<std::string> percent_decoded(std::string_view encoded) {
    std::string made;
    for (std::size_t i = 0; i < encoded.size(); ++i) {
        if (is_unreserved(encoded[i])) {
            made += encoded[i];
            continue;
        }
        unsigned code = 0;
        const bool has_digits = encoded[i] == '%' && i + 2 < encoded.size();
        if (!has_digits ||
            std::from_chars(encoded.data() + i + 1, encoded.data() + i + 3, code, 16).ptr != encoded.data() + i + 3) {
            return std::nullopt;
        }
        made += static_cast<char>(code);
        i += 2;
    }
    return made;
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
