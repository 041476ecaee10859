// SPDX-License-Identifier: MIT
#include "paint.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
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

namespace {

bool begins_character(char byte) {
    return (static_cast<unsigned char>(byte) & 0xC0U) != 0x80U;
}

} // namespace

std::size_t width_of(std::string_view text) {
    return static_cast<std::size_t>(std::count_if(text.begin(), text.end(), begins_character));
}

std::string_view characters_of(std::string_view text, std::size_t first, std::size_t count) {
    std::size_t begin = text.size();
    std::size_t end = text.size();
    std::size_t character = 0;
    for (std::size_t at = 0; at < text.size() && end == text.size(); ++at) {
        if (begins_character(text[at])) {
            begin = character == first ? at : begin;
            end = character == first + count ? at : end;
            ++character;
        }
    }
    return text.substr(std::min(begin, end), end - std::min(begin, end));
}

std::string fitted(std::string_view text, std::size_t columns) {
    if (width_of(text) <= columns) {
        return std::string{text};
    }
    return columns == 0 ? std::string{} : std::string{characters_of(text, 0, columns - 1)} + "…";
}

namespace {

constexpr char mark = '\x1e'; // a control character, so that it is in no text that is printed as it is

} // namespace

std::string paint(std::string_view text, colour hue, bool on) {
    if (!on || hue == colour::none) {
        return std::string{text};
    }
    return fmt::format("{}{}{}{}0", mark, static_cast<int>(hue), text, mark);
}

std::string_view painted_at(std::string_view text, std::size_t at) noexcept {
    constexpr std::array<std::string_view, 5> sequences{"\033[0m", "\033[1m", "\033[36m", "\033[33m", "\033[90m"};
    if (text[at] != mark || at + 1 == text.size() || text[at + 1] < '0' || text[at + 1] > '4') {
        return {};
    }
    return sequences[static_cast<std::size_t>(text[at + 1] - '0')];
}

} // namespace tool
