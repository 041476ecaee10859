// The courier tool: reads the command line and hands over.
#include "commands.hpp"
#include "demo_command.hpp"
#include "run_request.hpp"

#include <courier/config.hpp>

#include <CLI/CLI.hpp>
#include <fmt/core.h>

#include <cerrno>
#include <cstdint>
#include <cstdio>
#include <exception>
#include <stdexcept>
#include <string>
#include <system_error>
#include <utility>
#include <vector>

namespace {

constexpr int exit_bad_use = 2;

constexpr const char* footer = R"(
Exit codes: 0 fine, 1 findings or differences, 2 bad use or a broken file.
Colours appear on a terminal only; set NO_COLOR to turn them off.

Try:  courier demo --seed 7
      courier demo --careless --record night.jsonl --quiet
      courier audit night.jsonl
      courier explain night.jsonl horn)";

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
        ->check(tool::whole_number(0, INT64_MAX, "from 0 on"))
        ->capture_default_str();
    demo->add_option("--frames", request.night.frames, "Length of the night in frames, 1 to 100000")
        ->check(tool::whole_number(1, 100000, "from 1 to 100000"))
        ->capture_default_str();
    demo->add_flag("--quiet", request.quiet, "Print the summary only");
    demo->add_option("--record", request.night.record, "Record the night into this file, for the other commands");
    demo->add_flag("--careless", request.night.careless, "With systems that make every mistake an audit knows");
    demo->add_option("--shake", request.night.shake, "Shake the order inside stages by this seed; 0: do not")
        ->check(tool::whole_number(0, INT64_MAX, "from 0 on"))
        ->capture_default_str();
    const std::vector<std::pair<std::string, tool::command>> commands{
        {"explain", tool::add_explain(app)}, {"audit", tool::add_audit(app)}, {"map", tool::add_map(app)},
        {"lanes", tool::add_lanes(app)},     {"stats", tool::add_stats(app)}, {"replay", tool::add_replay(app)},
        {"compare", tool::add_compare(app)}, {"watch", tool::add_watch(app)}};

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
    const std::string chosen = app.get_subcommands().front()->get_name();
    for (const auto& [name, run_it] : commands) {
        if (name == chosen) {
            return run_it();
        }
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
    } catch (const std::invalid_argument& error) {
        return bad_use(error.what());
    } catch (const std::exception& error) {
        fmt::print(stderr, "courier: {}\n", error.what());
        return exit_bad_use;
    }
}
