// The courier tool: reads the command line and hands over.
#include "demo_command.hpp"

#include <courier/config.hpp>

#include <CLI/CLI.hpp>
#include <fmt/core.h>

#include <cstdio>
#include <exception>

namespace {

constexpr int exit_bad_use = 2;

constexpr const char* footer = R"(
Exit codes: 0 fine, 1 findings, 2 bad use.
Colours appear on a terminal only; set NO_COLOR to turn them off.

Try:  courier demo --seed 7
      courier demo --frames 40 --quiet)";

// One line: what is wrong, and what to do.
int report(const CLI::ParseError& error) {
    fmt::print(stderr, "courier: {} (see 'courier --help')\n", error.what());
    return exit_bad_use;
}

int run(int argc, char** argv) {
    CLI::App app{"Wired Courier: typed event channels for games"};
    app.name("courier");
    app.set_version_flag("--version", "courier " WIRED_COURIER_VERSION);
    app.footer(footer);
    app.require_subcommand(1);

    tool::demo_request request;
    CLI::App* demo = app.add_subcommand("demo", "Run a storm night at Gannet Reef and print what was published");
    demo->add_option("--seed", request.night.seed, "Chance of the night; the same seed gives the same night")
        ->capture_default_str();
    demo->add_option("--frames", request.night.frames, "Length of the night in frames, 1 to 100000")
        ->check(CLI::Range(1, 100000))
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
        return report(error);
    }
    return tool::run_demo(request);
}

} // namespace

int main(int argc, char** argv) {
    try {
        return run(argc, argv);
    } catch (const std::exception& error) {
        fmt::print(stderr, "courier: {}\n", error.what());
        return exit_bad_use;
    }
}
