// courier audit: what is wrong in a recorded run, or soon will be.
#include "commands.hpp"
#include "paint.hpp"
#include "run_request.hpp"

#include <courier/audit.hpp>

#include <fmt/format.h>
#include <nlohmann/json.hpp>

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
    fmt::print("{}\n", paint(std::string{id_of(f.code)}, colour::bold, colours));
    fmt::print("  {}\n", f.what);
    fmt::print("  {} {}\n", paint("where", colour::grey, colours), paint(f.where, colour::cyan, colours));
    fmt::print("  {} frame {}\n", paint("since", colour::grey, colours), f.since_frame);
    fmt::print("  {}    {}\n", paint("do", colour::grey, colours), f.what_to_do);
}

int run_audit(audit_request& request) {
    const courier::run recorded = read(request, false);
    courier::audit_report report =
        courier::audit(books_of(recorded), {.budget = std::chrono::microseconds(request.budget_us),
                                            .patience = static_cast<std::uint64_t>(request.patience)});
    std::erase_if(report.findings, [&](const courier::finding& f) {
        return (!request.filter.channel.empty() && f.channel != request.filter.channel) ||
               (!request.filter.party.empty() && f.subscriber != request.filter.party);
    });
    if (request.json) {
        nlohmann::ordered_json all = nlohmann::ordered_json::array();
        for (const courier::finding& f : report.findings) {
            all.push_back({{"code", id_of(f.code)},
                           {"what", f.what},
                           {"where", f.where},
                           {"since_frame", f.since_frame},
                           {"what_to_do", f.what_to_do},
                           {"channel", f.channel},
                           {"party", f.subscriber}});
        }
        fmt::print("{}\n", all.dump(2));
        return report.clean() ? 0 : 1;
    }
    const bool colours = colours_wanted();
    for (const courier::finding& f : report.findings) {
        print_finding(f, colours);
    }
    fmt::print("{}{}: {} in {}\n", report.clean() ? "" : "\n", recorded.file,
               report.clean() ? "no findings" : fmt::format("{} findings", report.findings.size()), recorded.state());
    return report.clean() ? 0 : 1;
}

} // namespace

command add_audit(CLI::App& app) {
    auto request = std::make_shared<audit_request>();
    CLI::App* audit_app = app.add_subcommand("audit", "List what is wrong, or soon will be; exit code 1 for findings");
    add_file(*audit_app, *request);
    audit_app->add_option("--channel", request->filter.channel, "Only findings about this channel");
    audit_app->add_option("--party", request->filter.party, "Only findings about this subscriber or publisher");
    audit_app->add_option("--budget", request->budget_us, "Microseconds that a handler may take, typically")
        ->check(whole_number(1, 1'000'000'000, "from 1 to 1000000000"))
        ->capture_default_str();
    audit_app->add_option("--patience", request->patience, "Frames before what does not happen is a finding")
        ->check(whole_number(1, 1'000'000'000, "from 1 to 1000000000"))
        ->capture_default_str();
    return [request] { return run_audit(*request); };
}

} // namespace tool
