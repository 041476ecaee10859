// The courier tool: reads the command line and hands over.
#include "demo_command.hpp"

#include <courier/config.hpp>

#include <CLI/CLI.hpp>
#include <fmt/core.h>

#include <cerrno>
#include <charconv>
#include <cstdint>
#include <cstdio>
#include <exception>
#include <string>
#include <system_error>
#include <vector>

namespace {

constexpr int exit_bad_use = 2;

constexpr const char* footer = R"(
Exit codes: 0 fine, 1 findings, 2 bad use.
Colours appear on a terminal only; set NO_COLOR to turn them off.

Try:  courier demo --seed 7
      courier demo --frames 40 --quiet)";

/// A whole number in a range, with a message that says so.
template <class Number>
CLI::Validator whole_number(Number low, Number high, const std::string& range) {
    return CLI::Validator(
        [=](const std::string& text) {
            Number value{};
            const char* end = text.data() + text.size();
            const auto [stop, error] = std::from_chars(text.data(), end, value);
            const bool fine = error == std::errc{} && stop == end && value >= low && value <= high;
            return fine ? std::string{} : fmt::format("'{}' is not a whole number {}", text, range);
        },
        "");
}

// One line: what is wrong, and where to read on.
int bad_use(const std::string& what) {
    fmt::print(stderr, "courier: {} (see 'courier --help')\n", what);
    return exit_bad_use;
}

std::string names_of(const CLI::App& app) {
    std::string names;
    for (const CLI::App* command : app.get_subcommands([](const CLI::App*) { return true; })) {
        names += (names.empty() ? "" : ", ") + command->get_name();
    }
    return names;
}

int run(int argc, char** argv) {
    CLI::App app{"Wired Courier: typed event channels for games"};
    app.name("courier");
    app.set_version_flag("--version", "courier " WIRED_COURIER_VERSION);
    app.footer(footer);
    app.allow_extras();

    tool::demo_request request;
    CLI::App* demo = app.add_subcommand("demo", "Run a storm night at Gannet Reef and print what was published");
    demo->allow_extras();
    demo->add_option("--seed", request.night.seed, "Chance of the night; the same seed gives the same night")
        ->check(whole_number<std::uint64_t>(0, UINT64_MAX, "from 0 on"))
        ->capture_default_str();
    demo->add_option("--frames", request.night.frames, "Length of the night in frames, 1 to 100000")
        ->check(whole_number(1, 100000, "from 1 to 100000"))
        ->capture_default_str();
    demo->add_flag("--quiet", request.quiet, "Print the summary only");

    try {
        app.parse(argc, argv);
    } catch (const CLI::CallForHelp&) {
        fmt::print("{}", app.help());
        return 0;
    } catch (const CLI::CallForVersion&) {
        fmt::print("{}\n", app.version());
        return 0;
    } catch (const CLI::ParseError& error) {
        return bad_use(error.what());
    }
    if (const std::vector<std::string> extra = app.remaining(true); !extra.empty()) {
        return bad_use(fmt::format("'{}' is not a command or option; commands: {}", extra.front(), names_of(app)));
    }
    if (app.get_subcommands().empty()) {
        return bad_use(fmt::format("give a command: {}", names_of(app)));
    }
    return tool::run_demo(request);
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
    } catch (const std::exception& error) {
        fmt::print(stderr, "courier: {}\n", error.what());
        return exit_bad_use;
    }
}
