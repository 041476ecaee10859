// SPDX-License-Identifier: MIT
// courier audit: what is wrong in a recorded run, or soon will be.
#include "commands.hpp"
#include "output.hpp"
#include "paint.hpp"
#include "run_request.hpp"

#include <courier/audit.hpp>
#include <courier/data/json.hpp>

#include <fmt/format.h>

#include <chrono>
#include <fstream>
#include <iterator>
#include <memory>
#include <optional>
#include <stdexcept>
#include <string>
#include <vector>

namespace tool {

namespace {

struct audit_request : run_request {
    std::chrono::nanoseconds budget = std::chrono::milliseconds(1);
    long long patience = 60;
    std::string accepted; ///< a file
};

/// A line of that file.
struct accepted_line {
    std::string code;
    std::optional<std::string> channel;
    std::optional<std::string> party;
    std::string reason;
};

/// Reads `[{"code": "every-frame", "channel": "slime.wounds", "reason": "each is drawn"}]`.
std::vector<courier::accepted_finding> read_accepted(const std::string& file) {
    std::ifstream in(file, std::ios::binary);
    if (!in) {
        throw std::invalid_argument(fmt::format("--accepted: '{}' cannot be read", file));
    }
    std::vector<accepted_line> lines;
    const std::string text(std::istreambuf_iterator<char>(in), {});
    if (const auto faults = courier::from_json(text, lines); !faults.empty()) {
        throw std::invalid_argument(fmt::format("--accepted: {}: {}", file, faults.front().text()));
    }
    std::vector<courier::accepted_finding> all;
    for (const accepted_line& one : lines) {
        const std::optional<courier::finding_code> code = courier::finding_code_named(one.code);
        if (!code || one.reason.empty()) {
            throw std::invalid_argument(
                code ? fmt::format("--accepted: {}: '{}' is accepted without a reason", file, one.code)
                     : fmt::format("--accepted: {}: there is no finding '{}'; there are {}", file, one.code,
                                   fmt::join(courier::finding_code_names(), ", ")));
        }
        all.push_back(
            {std::string(id_of(*code)), one.channel.value_or(""), one.party.value_or(""), one.reason, {file, 0}});
    }
    return all;
}

void print_finding(const courier::finding& f, bool colours) {
    print("{}\n", paint(std::string{id_of(f.code)}, colour::bold, colours));
    print("  {}\n", f.what);
    print("  {} {}\n", paint("where", colour::grey, colours), paint(f.where, colour::cyan, colours));
    print("  {} frame {}\n", paint("since", colour::grey, colours), f.since_frame);
    print("  {}    {}\n", paint("do", colour::grey, colours), f.advice);
}

int run_audit(audit_request& request) {
    const courier::run recorded = read(request, false);
    courier::audit_options options{.budget = request.budget, .patience = static_cast<std::uint64_t>(request.patience)};
    if (!request.accepted.empty()) {
        options.accepted = read_accepted(request.accepted);
    }
    courier::audit_report report = courier::audit(books_of(recorded), options);
    const auto is_left_out = [&](const courier::finding& f) {
        return (!request.filter.channel.empty() && f.channel != request.filter.channel) ||
               (!request.filter.party.empty() && f.party != request.filter.party);
    };
    std::erase_if(report.findings, is_left_out);
    std::erase_if(report.accepted, [&](const courier::acceptance_met& one) { return is_left_out(one.found); });
    if (request.json) {
        print("{}\n", courier::to_json(report));
        return report.clean() ? 0 : 1;
    }
    const bool colours = colours_wanted();
    for (const courier::finding& f : report.findings) {
        print_finding(f, colours);
    }
    for (const courier::acceptance_met& one : report.accepted) {
        print("{} {}\n  {}: {}\n", paint("accepted", colour::grey, colours), id_of(one.found.code), one.found.what,
              one.reason);
    }
    print_as_of(recorded);
    const std::string accepted =
        report.accepted.empty() ? "" : fmt::format(", and {} accepted", report.accepted.size());
    print("{}{}: {}{} in {}\n", report.clean() && report.accepted.empty() ? "" : "\n", recorded.file,
          report.clean() ? "no findings" : counted(report.findings.size(), "finding"), accepted, recorded.state());
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
        .text("--accepted", request->accepted,
              R"(A JSON file of findings that are as they should be: [{"code": ..., "channel": ..., "reason": ...}])")
        .time("--budget", request->budget, "What a handler may typically take", std::chrono::microseconds(1),
              std::chrono::seconds(1000))
        .number("--patience", request->patience,
                "Frames to wait before something that has not happened becomes a finding", 1, 1'000'000'000);
    options.examples({"courier audit night.jsonl", "courier audit night.jsonl --who horn --json"});
}

} // namespace tool
