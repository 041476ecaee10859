// The shapes of types, and their kinds for messages.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/data/value_shape.hpp>
#include <courier/detail/base/value_type.hpp>

#include <cstddef>
#include <string>
#include <string_view>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

[[nodiscard]] value_shape shape_of(const value_type& type);
/// Of a struct; without fields where they are not known. Of one that is to be filled,
/// texts that somebody else keeps are `other`: nobody would keep them.
[[nodiscard]] value_shape shape_of(const field_table* fields, std::string_view type, bool to_fill = false);

/// What an optional may hold; any other shape itself.
[[nodiscard]] inline const value_shape& without_optional(const value_shape& shape) noexcept {
    return shape.kind == value_kind::optional ? shape.inner.front() : shape;
}

/// "whale, gull, anchor"; of more than `most`, the first and how many more there are.
[[nodiscard]] std::string list_of(const std::vector<std::string>& names, std::size_t most);
inline constexpr std::size_t most_listed = 12; ///< in a message
/// "a whole number", "one of whale, gull, anchor".
[[nodiscard]] std::string kind_in_words(const value_shape& shape);
/// "a whole number from 0 to 255".
[[nodiscard]] std::string range_in_words(const value_shape& shape);

} // namespace detail
WIRED_COURIER_NAMESPACE_END
