// SPDX-License-Identifier: MIT
// courier codes: what a code means.
#include "code_table.hpp"
#include "commands.hpp"
#include "output.hpp"
#include "paint.hpp"

#include <courier/gateway/metric_family.hpp>
#include <courier/nearest.hpp>

#include <fmt/format.h>

#include <memory>
#include <string>
#include <vector>

namespace tool {

namespace {

struct codes_request {
    std::string code;
    bool markdown = false;
};

constexpr std::string_view prefix = "courier.";

/// The code, with or without "courier." before it.
const code_entry* find_code(std::string_view text) {
    for (const code_entry& one : all_codes()) {
        if (one.id == text || one.id.substr(prefix.size()) == text) {
            return &one;
        }
    }
    return nullptr;
}

/// "wiring"; empty for the core.
std::string_view family_of(const code_entry& one) {
    const std::string_view rest = one.id.substr(prefix.size());
    const std::size_t dot = rest.find('.');
    return dot == std::string_view::npos ? std::string_view{} : rest.substr(0, dot);
}

[[noreturn]] void refuse(const std::string& text) {
    std::vector<std::string> names;
    for (const code_entry& one : all_codes()) {
        names.emplace_back(one.id);
    }
    throw usage_error(fmt::format("'{}' is not a code", text),
                      courier::did_you_mean(text.starts_with(prefix) ? text : std::string(prefix) + text, names,
                                            "'courier codes' lists them all"));
}

void explain(const code_entry& one) {
    print("{}\n  meaning  {}\n  cause    {}\n  cure     {}\n", paint(one.id, colour::bold, colours_wanted()),
          one.meaning, one.cause, one.cure);
}

/// docs/codes.md.
void print_markdown() {
    print("# Codes\n\nMade by `courier codes --markdown`; `courier codes CODE` explains one on a terminal.\n\nEvery "
          "fault, refusal "
          "and finding has a code. From the first release on, a code keeps its meaning; new ones may be added.\n");
    std::string_view before = "?";
    for (const code_entry& one : all_codes()) {
        if (const std::string_view family = family_of(one); family != before) {
            before = family;
            print("\n## {}\n\n| code | meaning | cause | cure |\n|---|---|---|---|\n",
                  family.empty() ? std::string("core") : std::string(family));
        }
        print("| `{}` | {} | {} | {} |\n", one.id, one.meaning, one.cause, one.cure);
    }
    print(
        "\n## Metrics\n\n`GET /metrics` of a gateway (OpenMetrics 1.0). The samples of a counter end with `_total`.\n\n"
        "| name | kind | label | meaning |\n|---|---|---|---|\n");
    for (const courier::metric_family& one : courier::metric_families()) {
        print("| `{}` | {} | {} | {} |\n", one.name, one.kind, one.label, one.help);
    }
}

int run_codes(const codes_request& request) {
    if (request.markdown) {
        print_markdown();
    } else if (!request.code.empty()) {
        const code_entry* const found = find_code(request.code);
        if (found == nullptr) {
            refuse(request.code);
        }
        explain(*found);
    } else {
        for (const code_entry& one : all_codes()) {
            print("{:<36} {}\n", one.id, one.meaning);
        }
    }
    return 0;
}

} // namespace

void add_codes(command_line& to) {
    auto request = std::make_shared<codes_request>();
    option_set options = to.add("codes", "Explain a code: what it means, what causes it, and what to do",
                                [request] { return run_codes(*request); });
    options.optional("CODE", request->code, "Such as courier.wiring.never-holds; without one, all are listed")
        .flag("--markdown", request->markdown, "Print all as a page, docs/codes.md")
        .examples({"courier codes courier.wiring.never-holds", "courier codes wrong-thread"});
}

} // namespace tool
