// SPDX-License-Identifier: MIT
// courier trace: a recording for the time lines of profilers.
#include "commands.hpp"
#include "output.hpp"
#include "output_file.hpp"
#include "run_request.hpp"

#include <courier/recording/trace_events.hpp>

#include <memory>
#include <string>

namespace tool {

namespace {

struct trace_request : run_request {
    std::string output = "-";
};

int run_trace(trace_request& request) {
    check_not_the_recording(request.file, "-o", request.output);
    const courier::run recorded = read(request);
    output_file to(request.output);
    courier::write_trace_events(recorded, [&](std::string_view text) { to.write(text); });
    to.close();
    if (!to.is_standard_output()) {
        print("{}: opens in whatever reads the Trace Event format\n", request.output);
    }
    return 0;
}

} // namespace

void add_trace(command_line& to) {
    auto request = std::make_shared<trace_request>();
    option_set options = to.add("trace", "Write a recording in the Trace Event format, for a profiler's time line",
                                [request] { return run_trace(*request); });
    options.required("FILE", request->file, "A recording")
        .file("-o", request->output, "Where it goes; else, and for '-', to standard output")
        .examples({"courier trace night.jsonl -o night.trace.json"});
}

} // namespace tool
