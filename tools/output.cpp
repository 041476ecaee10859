// SPDX-License-Identifier: MIT
#include "output.hpp"

#include "paint.hpp"

#include <fmt/format.h>

#include <cerrno>
#include <cstdio>
#include <cstring>
#include <filesystem>
#include <new>

#include <fcntl.h>
#include <unistd.h>

namespace tool {

void hold_standard_streams() noexcept {
    for (const int descriptor : {STDIN_FILENO, STDOUT_FILENO, STDERR_FILENO}) {
        if (fcntl(descriptor, F_GETFD) == -1 && errno == EBADF) {
            // The lowest one that is free, and so this one.
            static_cast<void>(open("/dev/null", descriptor == STDERR_FILENO ? O_WRONLY : O_RDONLY));
        }
    }
}

namespace {

/// How many bytes the character has that begins at `at`; 0: these are no UTF-8.
std::size_t character_at(std::string_view text, std::size_t at) noexcept {
    const auto first = static_cast<unsigned char>(text[at]);
    const std::size_t size = first < 0x80U                      ? 1
                             : first >= 0xC2U && first <= 0xDFU ? 2
                             : first >= 0xE0U && first <= 0xEFU ? 3
                             : first >= 0xF0U && first <= 0xF4U ? 4
                                                                : 0;
    for (std::size_t i = 1; i < size; ++i) {
        if (at + i >= text.size() || (static_cast<unsigned char>(text[at + i]) & 0xC0U) != 0x80U) {
            return 0;
        }
    }
    return size;
}

unsigned code_of(std::string_view character) noexcept {
    const auto byte = [&](std::size_t i) { return static_cast<unsigned char>(character[i]); };
    switch (character.size()) {
    case 1:
        return byte(0);
    case 2:
        return (byte(0) & 0x1FU) << 6U | (byte(1) & 0x3FU);
    case 3:
        return (byte(0) & 0x0FU) << 12U | (byte(1) & 0x3FU) << 6U | (byte(2) & 0x3FU);
    default:
        return (byte(0) & 0x07U) << 18U | (byte(1) & 0x3FU) << 12U | (byte(2) & 0x3FU) << 6U | (byte(3) & 0x3FU);
    }
}

bool does_something(unsigned code) noexcept {
    return (code < 0x20 && code != '\n' && code != '\t') || (code >= 0x7F && code < 0xA0) || code == 0x200E ||
           code == 0x200F || (code >= 0x202A && code <= 0x202E) || (code >= 0x2066 && code <= 0x2069);
}

} // namespace

std::string made_visible(std::string_view text) {
    std::string made;
    made.reserve(text.size());
    for (std::size_t at = 0; at < text.size();) {
        if (const std::string_view paint = painted_at(text, at); !paint.empty()) {
            made += paint;
            at += paint_mark_size;
            continue;
        }
        const std::size_t size = character_at(text, at);
        if (size == 0) {
            made += fmt::format("\\x{:02x}", static_cast<unsigned char>(text[at++]));
            continue;
        }
        const std::string_view character = text.substr(at, size);
        if (const unsigned code = code_of(character); does_something(code)) {
            made += fmt::format("\\u{:04x}", code);
        } else {
            made += character;
        }
        at += size;
    }
    return made;
}

std::string counted(std::size_t count, std::string_view one, std::string_view many) {
    return count == 1     ? fmt::format("1 {}", one)
           : many.empty() ? fmt::format("{} {}s", count, one)
                          : fmt::format("{} {}", count, many);
}

void print_visible(std::string_view text) {
    const std::string made = made_visible(text);
    std::fwrite(made.data(), 1, made.size(), stdout);
}

void clear_screen() {
    std::fputs("\033[H\033[2J", stdout);
}

void clear_line() noexcept {
    std::fputs("\r\033[K", stderr);
}

void flush_output() {
    if (std::fflush(stdout) != 0 || std::ferror(stdout) != 0) {
        const int why = errno;
        std::clearerr(stdout);
        throw output_error(fmt::format("cannot write to standard output: {}", std::strerror(why)));
    }
}

void say(const std::string& text) noexcept {
    try {
        std::fputs(made_visible(text).c_str(), stderr);
    } catch (const std::bad_alloc&) {
        std::fputs("courier: out of memory\n", stderr);
    }
}

void check_not_the_recording(const std::string& recording, const std::string& option, const std::string& to) {
    std::error_code ignored;
    if (!to.empty() && to != "-" && std::filesystem::equivalent(recording, to, ignored)) {
        throw std::invalid_argument(
            fmt::format("{} {} is the recording itself, which would be lost; name another file", option, to));
    }
}

} // namespace tool
