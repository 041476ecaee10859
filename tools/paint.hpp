// Colours, on a terminal only.
#pragma once

#include <cstdint>
#include <string>
#include <string_view>

namespace tool {

enum class colour : std::uint8_t { none, bold, cyan, yellow, grey };

/// Whether standard output is a terminal and NO_COLOR is not set.
bool colours_wanted();

/// `text`, in `hue` when `on`.
std::string paint(std::string_view text, colour hue, bool on);

} // namespace tool
