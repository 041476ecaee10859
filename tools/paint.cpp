#include "paint.hpp"

#include <fmt/color.h>

#include <cstdlib>

#include <unistd.h>

namespace tool {

bool colours_wanted() {
    const char* no_color = std::getenv("NO_COLOR");
    return isatty(STDOUT_FILENO) == 1 && (no_color == nullptr || *no_color == '\0');
}

std::string paint(std::string_view text, colour hue, bool on) {
    if (!on || hue == colour::none) {
        return std::string{text};
    }
    switch (hue) {
    case colour::bold:
        return fmt::format(fmt::emphasis::bold, "{}", text);
    case colour::cyan:
        return fmt::format(fmt::fg(fmt::terminal_color::cyan), "{}", text);
    case colour::yellow:
        return fmt::format(fmt::fg(fmt::terminal_color::yellow), "{}", text);
    default:
        return fmt::format(fmt::fg(fmt::terminal_color::bright_black), "{}", text);
    }
}

} // namespace tool
