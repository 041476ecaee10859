// Colours, on a terminal only.
// SPDX-License-Identifier: MIT
#pragma once

#include <cstddef>
#include <cstdint>
#include <string>
#include <string_view>

namespace tool {

enum class colour : std::uint8_t { none, bold, cyan, yellow, grey };

/// Whether standard output is a terminal and NO_COLOR is not set.
bool colours_wanted();

/// Of the terminal on standard output; 140 and 42 when it is none.
std::size_t terminal_columns();
std::size_t terminal_rows();

/// How many columns a text in UTF-8 takes, a character counted as one.
std::size_t width_of(std::string_view text);

/// Its characters from the `first` on, `count` at most.
std::string_view characters_of(std::string_view text, std::size_t first, std::size_t count);

/// `text`, or what fits of it into so many columns, with an ellipsis behind it.
std::string fitted(std::string_view text, std::size_t columns);

/// `text`, in `hue` when `on`, for `print()`: marks that only that turns into colours.
std::string paint(std::string_view text, colour hue, bool on);

/// What the mark at `at` stands for; empty: there is none.
std::string_view painted_at(std::string_view text, std::size_t at) noexcept;
inline constexpr std::size_t paint_mark_size = 2;

} // namespace tool
