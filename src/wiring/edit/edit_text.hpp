// Where the wires of a file and their keys stand, in bytes.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>

#include <cstddef>
#include <cstdint>
#include <string>
#include <string_view>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// From the first byte on, and not the last.
struct text_range {
    std::size_t first = 0;
    std::size_t past = 0;
};

struct key_in_text {
    std::string key;
    text_range value; ///< of a table with a header of its own: all of it
    text_range lines; ///< whole lines
    bool has_header = false;
};

struct wire_in_text {
    text_range lines;      ///< whole lines, with comments right above it
    std::size_t header;    ///< where its header's line begins
    std::uint32_t line;    ///< of the header, from 1
    std::size_t keys_past; ///< behind the line of the last key that stands in it without a header
    std::vector<key_in_text> keys;
};

/// Throws `wiring_error` when the text is no TOML.
[[nodiscard]] std::vector<wire_in_text> wires_in(const std::string& file, const std::string& text);

} // namespace detail
WIRED_COURIER_NAMESPACE_END
