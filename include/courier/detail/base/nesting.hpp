// How deep a text from outside may nest, looked at before a parser that recurses sees it.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>

#include <cstddef>
#include <cstdint>
#include <string_view>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// Lists, tables and the parts of a dotted key, in one another. No file, catalogue,
/// request or message that makes sense comes near it.
inline constexpr std::size_t deepest_nesting = 64;

enum class text_format : std::uint8_t { as_json, as_toml };

/// Whether brackets, or the dots of one TOML key, nest deeper than that. One pass,
/// no memory. Of a text that is not of its format it may say either.
[[nodiscard]] bool is_too_deep(std::string_view text, text_format format) noexcept;

} // namespace detail
WIRED_COURIER_NAMESPACE_END
