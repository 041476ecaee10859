// SPDX-License-Identifier: MIT
// courier report: the page with a recording inside, as one file.
#include "commands.hpp"
#include "output.hpp"
#include "output_file.hpp"
#include "run_request.hpp"

#include <courier/gateway/report.hpp>

#include <memory>
#include <stdexcept>
#include <string>

namespace tool {

namespace {

struct report_request : run_request {
    std::string output;
};

int run_report(report_request& request) {
    if (request.output.empty()) {
        throw std::invalid_argument("-o FILE is missing: where the report goes, such as night.html");
    }
    check_not_the_recording(request.file, "-o", request.output);
    const std::string document = courier::report_of(read(request));
    output_file to(request.output);
    to.write(document);
    to.close();
    if (to.is_standard_output()) {
        return 0;
    }
    print("{}: {:.1f} MB, opens in any browser, from disk\n", request.output,
          static_cast<double>(document.size()) / 1e6);
    return 0;
}

} // namespace

void add_report(command_line& to) {
    auto request = std::make_shared<report_request>();
    option_set options = to.add("report", "Make one page of a recording, to keep or to send to somebody",
                                [request] { return run_report(*request); });
    options.required("FILE", request->file, "A recording")
        .file("-o", request->output, "Where the page goes ('-': standard output)")
        .examples({"courier report night.jsonl -o night.html"});
}

} // namespace tool
