// SPDX-License-Identifier: MIT
// courier check: whether wiring files are right, without the game.
#include "commands.hpp"
#include "output.hpp"
#include "paint.hpp"
#include "wiring_request.hpp"

#include <courier/data/json.hpp>
#include <courier/wiring/check.hpp>

#include <fmt/format.h>

#include <memory>
#include <string>
#include <vector>

namespace tool {

namespace {

struct check_request {
    std::vector<std::string> files;
    std::string catalogue;
    bool json = false;
    bool strict = false;
};

struct told_check {
    bool clean;
    std::string catalogue;
    std::size_t files;
    std::size_t wires;
    std::vector<courier::wiring_fault> faults;
    std::vector<courier::awaited_target> awaited_targets;
};

void print_json(const courier::wiring_check& result, bool clean, const std::string& catalogue) {
    print("{}\n", courier::to_json(told_check{clean, catalogue.empty() ? "demo" : catalogue, result.files, result.wires,
                                              result.faults, result.awaited}));
}

void print_text(const courier::wiring_check& result, bool colours) {
    for (const courier::wiring_fault& one : result.faults) {
        const std::string told = one.picture();
        const std::size_t end = told.find('\n');
        print("{}{}\n", paint(told.substr(0, end), colour::bold, colours),
              end == std::string::npos ? "" : told.substr(end));
    }
    for (const courier::awaited_target& one : result.awaited) {
        print("{}:{}:{}: the catalogue has no '{}': its wires wait until it comes{}\n", one.file, one.line, one.column,
              one.name, one.advice.empty() ? "" : "; " + one.advice);
    }
    if (result.clean()) {
        print("{}, {}: no faults\n", counted(result.files, "file"), counted(result.wires, "wire"));
    } else {
        print("\n{} in {}\n", counted(result.faults.size(), "fault"), counted(result.files, "file"));
    }
}

int run_check(const check_request& request) {
    const std::string catalogue =
        request.catalogue.empty() ? catalogue_beside(request.files.front()) : request.catalogue;
    const courier::wiring_check result = courier::check_wiring(paths_of(request.files), catalogue_or_demo(catalogue));
    const bool clean = result.clean() && (!request.strict || result.awaited.empty());
    if (request.json) {
        print_json(result, clean, catalogue);
    } else {
        print("{}\n\n", catalogue.empty() ? "checked against the demo, Gannet Reef; name your game's catalogue with "
                                            "--catalogue, or put it beside the file as catalogue.json"
                                          : "checked against " + catalogue);
        print_text(result, colours_wanted());
    }
    return clean ? 0 : 1;
}

} // namespace

void add_check(command_line& to) {
    auto request = std::make_shared<check_request>();
    to.add("check", "Check wiring files as one, without the game; exit code 1 for faults",
           [request] { return run_check(*request); })
        .required("FILE", request->files, "Wiring files; those that they include are checked with them")
        .file("--catalogue", request->catalogue, "What the game has, as it wrote it; without it, the demo's")
        .flag("--strict", request->strict, "A target that the catalogue does not have is a fault, too")
        .flag("--json", request->json, "Print JSON, for other tools")
        .examples({"courier check demo/reef.toml", "courier check level1.toml level2.toml --catalogue game.json",
                   "courier check demo/mistakes.toml --json"});
}

} // namespace tool
