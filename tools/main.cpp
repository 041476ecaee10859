// The courier tool: reads the command line and hands over.
#include "commands.hpp"

#include <fmt/core.h>

#include <cerrno>
#include <cstdio>
#include <exception>
#include <stdexcept>
#include <string>
#include <system_error>

namespace {

constexpr int exit_bad_use = 2;

constexpr const char* footer = R"(
Exit codes: 0 fine, 1 findings or differences, 2 bad use or a broken file.
Colours appear on a terminal only; set NO_COLOR to turn them off.

Try:  courier demo --seed 7
      courier demo --careless --record night.jsonl --quiet
      courier audit night.jsonl
      courier explain night.jsonl horn)";

int run(int argc, char** argv) {
    tool::command_line line("Wired Courier: typed event channels for games", footer);
    tool::add_demo(line);
    tool::add_explain(line);
    tool::add_audit(line);
    tool::add_map(line);
    tool::add_lanes(line);
    tool::add_stats(line);
    tool::add_replay(line);
    tool::add_compare(line);
    tool::add_watch(line);
    return line.run(argc, argv);
}

int cannot_write(const std::string& why) {
    fmt::print(stderr, "courier: cannot write to standard output: {}\n", why);
    return exit_bad_use;
}

} // namespace

int main(int argc, char** argv) {
    try {
        const int code = run(argc, argv);
        if (std::fflush(stdout) != 0) {
            return cannot_write(std::generic_category().message(errno));
        }
        return code;
    } catch (const std::system_error& error) {
        return cannot_write(error.code().message());
    } catch (const std::invalid_argument& error) { // one line: what is wrong, and where to read on
        fmt::print(stderr, "courier: {} (see 'courier --help')\n", error.what());
        return exit_bad_use;
    } catch (const std::exception& error) {
        fmt::print(stderr, "courier: {}\n", error.what());
        return exit_bad_use;
    }
}
