#include "paint.hpp"

#include <fmt/color.h>

#include <cstdlib>

#include <sys/ioctl.h>
#include <unistd.h>

namespace tool {

bool colours_wanted() {
    const char* no_color = std::getenv("NO_COLOR");
    return isatty(STDOUT_FILENO) == 1 && (no_color == nullptr || *no_color == '\0');
}

namespace {

winsize terminal_size() {
    winsize size{};
    if (ioctl(STDOUT_FILENO, TIOCGWINSZ, &size) != 0 || size.ws_col == 0 || size.ws_row == 0) {
        size.ws_col = 140;
        size.ws_row = 42;
    }
    return size;
}

} // namespace

std::size_t terminal_columns() {
    return terminal_size().ws_col;
}

std::size_t terminal_rows() {
    return terminal_size().ws_row;
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
