// SPDX-License-Identifier: MIT
// courier compare: what two recordings differ in.
#include "commands.hpp"
#include "output.hpp"
#include "paint.hpp"
#include "run_request.hpp"

#include <courier/data/json.hpp>
#include <courier/recording/comparison.hpp>

#include <fmt/format.h>

#include <initializer_list>
#include <memory>

namespace tool {

namespace {

struct compare_request : run_request {
    std::string other;
    bool lines = false;
};

std::string words_or_end(const courier::run& of, const courier::recorded_event* e) {
    return e != nullptr ? in_words(of, *e) : "(not in this one)";
}

struct told_difference {
    std::string one;
    std::string other;
    std::vector<std::string> what;
};
struct told_count {
    std::string field;
    std::uint64_t events;
};
struct told_comparison {
    bool equal;
    std::uint64_t same;
    std::uint64_t same_before_first;
    std::vector<std::string> facts;
    std::optional<told_difference> first;
    std::vector<courier::channel_comparison> channels;
    std::vector<told_count> changed_in;
};

void print_json(const courier::run& one, const courier::run& other, const courier::run_comparison& result) {
    told_comparison all{result.equal(), result.same, result.same_before, result.facts, {}, result.channels, {}};
    if (result.first) {
        all.first = told_difference{words_or_end(one, result.first->one), words_or_end(other, result.first->other),
                                    result.first->what};
    }
    for (const auto& [field, events] : result.what) {
        all.changed_in.push_back({field, events});
    }
    print("{}\n", courier::to_json(all));
}

void print_text(const courier::run& one, const courier::run& other, const courier::run_comparison& result) {
    const bool colours = colours_wanted();
    print("one:   {}: {}\nother: {}: {}\n", one.file, one.state(), other.file, other.state());
    for (const std::string& fact : result.facts) {
        print("  {}\n", fact);
    }
    if (result.equal()) {
        print("no difference in {} events\n", result.same);
        return;
    }
    print("\n{} {} {} the same, then\n", paint("first difference:", colour::bold, colours), result.same_before,
          result.same_before == 1 ? "event is" : "events are");
    print("  one:   {}\n", words_or_end(one, result.first->one));
    print("  other: {}\n", words_or_end(other, result.first->other));
    for (const std::string& what : result.first->what) {
        print("    {}\n", paint(what, colour::cyan, colours));
    }
    print("\n{}\n", paint(fmt::format("  {:<26}{:>9}{:>10}{:>13}{:>15}", "in all, events on", "same", "changed",
                                      "only in one", "only in other"),
                          colour::bold, colours));
    for (const courier::channel_comparison& c : result.channels) {
        print("  {:<26}{:>9}{:>10}{:>13}{:>15}\n", c.channel, c.same, c.changed, c.only_one, c.only_other);
    }
    std::string what;
    for (const auto& [field, events] : result.what) {
        what += fmt::format("{}{} ({})", what.empty() ? "" : ", ", field, events);
    }
    if (!what.empty()) {
        print("\nchanged in: {}\n", what);
    }
}

int run_compare(compare_request& request) {
    courier::run one = read(request);
    run_request second = static_cast<const run_request&>(request);
    second.file = request.other;
    courier::run other = read(second);
    const courier::run_comparison result = compare(one, other, request.filter, {.lines = request.lines});
    if (request.json) {
        print_json(one, other, result);
    } else {
        print_text(one, other, result);
    }
    return result.equal() ? 0 : 1;
}

} // namespace

void add_compare(command_line& to) {
    auto request = std::make_shared<compare_request>();
    option_set options = to.add(
        "compare", "Show the first difference between two recordings, and all by channel; exit code 1 if they differ",
        [request] { return run_compare(*request); });
    add_file(options, *request);
    options.required("OTHER", request->other, "The other recording");
    options.flag("--lines", request->lines, "Compare lines of code as well");
    add_filters(options, *request);
    options.examples({"courier compare good.jsonl bad.jsonl"});
}

} // namespace tool
