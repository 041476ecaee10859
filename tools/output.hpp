// Where the tool writes to, and what it says when that cannot be done.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/data/json.hpp>

#include <fmt/format.h>

#include <cstddef>
#include <stdexcept>
#include <string>
#include <string_view>
#include <utility>

namespace tool {

/// Standard output could not be written to.
class output_error : public std::runtime_error {
public:
    using std::runtime_error::runtime_error;
};

/// Descriptors 0, 1 and 2 that were closed become /dev/null, opened so that
/// standard output cannot be written to; else the next file that is opened
/// would get what is meant for them.
void hold_standard_streams() noexcept;

/// Writes out what has been printed; throws `output_error` when that fails.
void flush_output();

/// Text as a terminal may be given it: control characters, marks that turn the direction
/// of writing, and bytes that are no UTF-8 are written out ("\u001b", "\xff"), since names and
/// texts may come from elsewhere. Ends of lines and tabs stay, and what `paint()` has put in.
[[nodiscard]] std::string made_visible(std::string_view text);

/// "1 wire", "2 wires"; `many` where an "s" does not make it.
[[nodiscard]] std::string counted(std::size_t count, std::string_view one, std::string_view many = {});

/// Prints on standard output, with control characters made visible. The only function that prints there.
void print_visible(std::string_view text);
template <class... Arguments>
void print(fmt::format_string<Arguments...> format, Arguments&&... arguments) {
    print_visible(fmt::format(format, std::forward<Arguments>(arguments)...));
}

/// Prints a list as JSON, an item on each line.
template <class List>
void print_json_list(const List& all) {
    std::string text;
    for (const auto& one : all) {
        text += (text.empty() ? "\n " : ",\n ") + courier::to_json(one);
    }
    print("[{}\n]\n", text);
}

/// Moves to the upper left corner of a terminal, and clears it.
void clear_screen();

/// Clears the line that is being written on standard error.
void clear_line() noexcept;

/// Says something on standard error, made visible; where that cannot be written to, nothing.
void say(const std::string& text) noexcept;

/// Refuses to write into the file that is read from.
void check_not_the_recording(const std::string& recording, const std::string& option, const std::string& to);

} // namespace tool
