// The courier tool: reads the command line and hands over.
#include "commands.hpp"
#include "output.hpp"

#include <courier/wiring/wiring_fault.hpp>

#include <fmt/core.h>

#include <cstdio>
#include <exception>
#include <filesystem>
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
    tool::add_systems(line);
    tool::add_phases(line);
    tool::add_stats(line);
    tool::add_replay(line);
    tool::add_compare(line);
    tool::add_watch(line);
    tool::add_serve(line);
    tool::add_report(line);
    tool::add_trace(line);
    tool::add_check(line);
    tool::add_catalogue(line);
    tool::add_changes(line);
    return line.run(argc, argv);
}

int bad_use(const std::string& why, const char* further = "") {
    tool::say(fmt::format("courier: {}{}\n", why, further));
    return exit_bad_use;
}

} // namespace

int main(int argc, char** argv) {
    tool::hold_standard_streams();
    try {
        const int code = run(argc, argv);
        tool::flush_output();
        return code;
    } catch (const courier::wiring_error& error) {
        tool::say(std::string(error.what()) + "\n");
        return bad_use(
            fmt::format("{} in the wiring; nothing of it was taken",
                        error.faults().size() == 1 ? "1 mistake" : fmt::format("{} mistakes", error.faults().size())));
    } catch (const std::filesystem::filesystem_error& error) {
        return bad_use(error.what());
    } catch (const std::system_error& error) { // as fmt throws it
        return bad_use(std::ferror(stdout) != 0
                           ? fmt::format("cannot write to standard output: {}", error.code().message())
                           : error.what());
    } catch (const std::invalid_argument& error) { // one line: what is wrong, and where to read on
        return bad_use(error.what(), " (see 'courier --help')");
    } catch (const std::exception& error) {
        return bad_use(error.what());
    }
}
