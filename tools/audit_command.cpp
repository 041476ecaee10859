// courier audit: what is wrong in a recorded run, or soon will be.
#include "commands.hpp"
#include "json.hpp"
#include "output.hpp"
#include "paint.hpp"
#include "run_request.hpp"

#include <courier/audit.hpp>

#include <fmt/format.h>

#include <chrono>
#include <memory>
#include <vector>

namespace tool {

namespace {

struct audit_request : run_request {
    long long budget_us = 1000;
    long long patience = 60;
};

void print_finding(const courier::finding& f, bool colours) {
    print("{}\n", paint(std::string{id_of(f.code)}, colour::bold, colours));
    print("  {}\n", f.what);
    print("  {} {}\n", paint("where", colour::grey, colours), paint(f.where, colour::cyan, colours));
    print("  {} frame {}\n", paint("since", colour::grey, colours), f.since_frame);
    print("  {}    {}\n", paint("do", colour::grey, colours), f.what_to_do);
}

int run_audit(audit_request& request) {
    const courier::run recorded = read(request, false);
    courier::audit_report report =
        courier::audit(books_of(recorded), {.budget = std::chrono::microseconds(request.budget_us),
                                            .patience = static_cast<std::uint64_t>(request.patience)});
    std::erase_if(report.findings, [&](const courier::finding& f) {
        return (!request.filter.channel.empty() && f.channel != request.filter.channel) ||
               (!request.filter.party.empty() && f.party != request.filter.party);
    });
    if (request.json) {
        json all = json::array();
        for (const courier::finding& f : report.findings) {
            all.add({{"code", id_of(f.code)},
                     {"what", f.what},
                     {"where", f.where},
                     {"since_frame", f.since_frame},
                     {"what_to_do", f.what_to_do},
                     {"channel", f.channel},
                     {"party", f.party}});
        }
        print("{}\n", all.on_lines());
        return report.clean() ? 0 : 1;
    }
    const bool colours = colours_wanted();
    for (const courier::finding& f : report.findings) {
        print_finding(f, colours);
    }
    print("{}{}: {} in {}\n", report.clean() ? "" : "\n", recorded.file,
          report.clean() ? "no findings" : fmt::format("{} findings", report.findings.size()), recorded.state());
    return report.clean() ? 0 : 1;
}

} // namespace

void add_audit(command_line& to) {
    auto request = std::make_shared<audit_request>();
    option_set options = to.add("audit", "List what is wrong, or soon will be; exit code 1 for findings",
                                [request] { return run_audit(*request); });
    add_file(options, *request);
    options.text("--channel", request->filter.channel, "Only findings about this channel")
        .text("--who", request->filter.party, "Only findings about this subscriber or publisher")
        .number("--budget", request->budget_us, "Microseconds that a handler may take, typically", 1, 1'000'000'000)
        .number("--patience", request->patience,
                "Frames to wait before something that has not happened becomes a finding", 1, 1'000'000'000);
    options.examples({"courier audit night.jsonl", "courier audit night.jsonl --who horn --json"});
}

} // namespace tool
