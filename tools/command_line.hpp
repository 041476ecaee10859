// Commands and their options. What parses them is known to one file only, since
// it is much to compile.
// SPDX-License-Identifier: MIT
#pragma once

#include <chrono>
#include <cstdint>
#include <functional>
#include <initializer_list>
#include <memory>
#include <stdexcept>
#include <string>
#include <vector>

namespace tool {

/// The arguments make no sense: what is wrong, and what to do, in one line.
class usage_error : public std::invalid_argument {
public:
    explicit usage_error(const std::string& what, const std::string& advice = "see 'courier --help'");
};

/// What a command does; returns the exit code.
using command = std::function<int()>;

/// The options of one command. Names are `--name`, or `NAME` for what is given
/// by its place. What they write to must outlive the command line.
class option_set {
public:
    explicit option_set(void* of) noexcept : of_(of) {}

    option_set& required(const char* name, std::string& to, const char* what);
    /// Several by their places; `optional` ones by their place or not at all.
    option_set& required(const char* name, std::vector<std::string>& to, const char* what);
    option_set& optional(const char* name, std::string& to, const char* what);
    option_set& text(const char* name, std::string& to, const char* what);
    /// Text that names a file, or a range of frames.
    option_set& file(const char* name, std::string& to, const char* what);
    option_set& files(const char* name, std::vector<std::string>& to, const char* what);
    option_set& range(const char* name, std::string& to, const char* what);
    option_set& flag(const char* name, bool& to, const char* what);
    /// A time with its unit: "250ms"; us, ms, s, min and h.
    option_set& time(const char* name, std::chrono::nanoseconds& to, const char* what, std::chrono::nanoseconds least,
                     std::chrono::nanoseconds most);
    /// The option before is for programs only, and not in the help.
    option_set& hidden();

    /// A whole number in a range; without `high`, any from `low` on.
    template <class Number>
    option_set& number(const char* name, Number& to, const char* what, std::int64_t low,
                       std::int64_t high = INT64_MAX) {
        return number(
            name, [&to](std::int64_t given) { to = static_cast<Number>(given); }, std::to_string(to), what, low, high);
    }

    /// What the command's help ends with.
    option_set& examples(std::initializer_list<const char*> lines);

private:
    option_set& number(const char* name, std::function<void(std::int64_t)> take, const std::string& otherwise,
                       const char* what, std::int64_t low, std::int64_t high);

    void* of_; ///< the parser's own
};

class command_line {
public:
    command_line(const char* what, const char* footer);
    command_line(const command_line&) = delete;
    command_line& operator=(const command_line&) = delete;
    ~command_line();

    /// A command: its options are added to what is returned.
    option_set add(const char* name, const char* what, command run);

    /// Does what the arguments say and returns the exit code. Throws `usage_error` when they
    /// make no sense.
    int run(int argc, char** argv);

private:
    struct parser;
    std::unique_ptr<parser> parser_;
};

} // namespace tool
