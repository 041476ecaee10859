// SPDX-License-Identifier: MIT
// The courier tool.
#include "commands.hpp"
#include "run_tool.hpp"

namespace {

constexpr const char* footer = R"(
Exit codes: 0 fine, 1 findings or differences, 2 bad use or a broken file.
Colours appear on a terminal only; set NO_COLOR to turn them off.

Try:  courier demo --seed 7
      courier demo --careless --record night.jsonl --quiet
      courier audit night.jsonl
      courier explain night.jsonl horn)";

void add_commands(tool::command_line& line) {
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
    tool::add_stub(line);
    tool::add_changes(line);
    tool::add_codes(line);
    tool::add_new(line);
}

} // namespace

int main(int argc, char** argv) {
    return tool::run_tool(argc, argv, footer, add_commands);
}
