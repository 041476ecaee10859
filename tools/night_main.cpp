// SPDX-License-Identifier: MIT
// The night alone: 'courier demo' as far as the core and the component wiring go, which is quick to build.
#include "night_request.hpp"
#include "run_tool.hpp"

#include <memory>

namespace {

void add_night(tool::command_line& line) {
    auto request = std::make_shared<tool::night_request>();
    tool::option_set options = line.add("demo", tool::night_command, [request] {
        tool::print_night(
            *request, [&](const reef::night_log::line_sink& sink) { return reef::run_night(request->night, sink); });
        return 0;
    });
    tool::add_night_options(options, *request);
}

} // namespace

int main(int argc, char** argv) {
    return tool::run_tool(argc, argv, "", add_night);
}
