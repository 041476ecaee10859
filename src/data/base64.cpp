// SPDX-License-Identifier: MIT
#include "data/base64.hpp"

#include <cstddef>
#include <cstdint>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {
constexpr std::string_view letters = "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/";
} // namespace

std::string to_base64(std::string_view bytes) {
    std::string made;
    made.reserve((bytes.size() + 2) / 3 * 4);
    for (std::size_t i = 0; i < bytes.size(); i += 3) {
        std::uint32_t three = 0;
        for (std::size_t k = 0; k < 3; ++k) {
            three = three << 8 | (i + k < bytes.size() ? static_cast<unsigned char>(bytes[i + k]) : 0U);
        }
        for (std::size_t k = 0; k < 4; ++k) {
            made += i + k <= bytes.size() ? letters[three >> (18 - 6 * k) & 63U] : '=';
        }
    }
    return made;
}

std::optional<std::string> from_base64(std::string_view text) {
    if (text.size() % 4 != 0) {
        return std::nullopt;
    }
    std::string made;
    made.reserve(text.size() / 4 * 3);
    for (std::size_t i = 0; i < text.size(); i += 4) {
        const bool is_last = i + 4 == text.size();
        const std::size_t padding = !is_last ? 0 : text.ends_with("==") ? 2 : text.ends_with('=') ? 1 : 0;
        std::uint32_t four = 0;
        for (std::size_t k = 0; k < 4; ++k) {
            const std::size_t value = k + padding >= 4 ? 0 : letters.find(text[i + k]);
            if (value == std::string_view::npos) {
                return std::nullopt;
            }
            four = four << 6 | static_cast<std::uint32_t>(value);
        }
        for (std::size_t k = 0; k + padding < 3; ++k) {
            made += static_cast<char>(four >> (16 - 8 * k) & 0xffU);
        }
    }
    return made;
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
