// courier trace: a recording for the time lines of profilers.
#include "commands.hpp"
#include "output.hpp"
#include "run_request.hpp"

#include <courier/recording/trace_events.hpp>

#include <fmt/format.h>

#include <cerrno>
#include <cstdio>
#include <cstring>
#include <memory>
#include <string>

namespace tool {

namespace {

struct trace_request : run_request {
    std::string output;
};

int run_trace(trace_request& request) {
    if (!request.output.empty()) {
        check_not_the_recording(request.file, "-o", request.output);
    }
    const courier::run recorded = read(request);
    std::FILE* const file = request.output.empty() ? stdout : std::fopen(request.output.c_str(), "wb");
    if (file == nullptr) {
        throw output_error(fmt::format("cannot write {}: {}", request.output, std::strerror(errno)));
    }
    bool is_fine = true;
    courier::write_trace_events(recorded, [&](std::string_view text) {
        is_fine = is_fine && std::fwrite(text.data(), 1, text.size(), file) == text.size();
    });
    if (file != stdout) {
        is_fine = std::fclose(file) == 0 && is_fine;
        if (is_fine) {
            print("{}: opens in whatever reads the Trace Event format\n", request.output);
        }
    }
    if (!is_fine) {
        throw output_error(fmt::format(
            "cannot write {}: {}", request.output.empty() ? "standard output" : request.output, std::strerror(errno)));
    }
    return 0;
}

} // namespace

void add_trace(command_line& to) {
    auto request = std::make_shared<trace_request>();
    option_set options = to.add("trace", "Write a recording in the Trace Event format, for a profiler's time line",
                                [request] { return run_trace(*request); });
    options.required("FILE", request->file, "A recording")
        .file("-o", request->output, "Where it goes; else to standard output")
        .examples({"courier trace night.jsonl -o night.trace.json"});
}

} // namespace tool
