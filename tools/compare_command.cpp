// courier compare: what two recordings differ in.
#include "commands.hpp"
#include "json.hpp"
#include "output.hpp"
#include "paint.hpp"
#include "run_request.hpp"

#include <courier/recording/comparison.hpp>

#include <fmt/format.h>

#include <memory>

namespace tool {

namespace {

struct compare_request : run_request {
    std::string other;
};

std::string words_or_end(const courier::run& of, const courier::recorded_event* e) {
    return e != nullptr ? in_words(of, *e) : "(nothing more)";
}

void print_json(const courier::run& one, const courier::run& other, const courier::run_comparison& result) {
    json all{{"equal", result.equal()}, {"same", result.same}, {"facts", result.facts}};
    if (result.first) {
        all.set("first", {{"one", words_or_end(one, result.first->one)},
                          {"other", words_or_end(other, result.first->other)},
                          {"what", result.first->what}});
    }
    json counts = json::array();
    for (const courier::count_difference& c : result.counts) {
        counts.add({{"channel", c.channel}, {"one", c.one}, {"other", c.other}});
    }
    all.set("counts", std::move(counts));
    print("{}\n", all.on_lines());
}

void print_text(const courier::run& one, const courier::run& other, const courier::run_comparison& result) {
    const bool colours = colours_wanted();
    print("one:   {}: {}\nother: {}: {}\n", one.file, one.state(), other.file, other.state());
    for (const std::string& fact : result.facts) {
        print("  {}\n", fact);
    }
    if (result.first) {
        print("\n{} {} events are the same, then\n", paint("first difference:", colour::bold, colours), result.same);
        print("  one:   {}\n", words_or_end(one, result.first->one));
        print("  other: {}\n", words_or_end(other, result.first->other));
        for (const std::string& what : result.first->what) {
            print("    {}\n", paint(what, colour::cyan, colours));
        }
    }
    if (!result.counts.empty()) {
        print("\n{}\n", paint(fmt::format("  {:<26}{:>9}{:>9}{:>9}", "published on", "one", "other", "more"),
                              colour::bold, colours));
        for (const courier::count_difference& c : result.counts) {
            print("  {:<26}{:>9}{:>9}{:>+9}\n", c.channel, c.one, c.other,
                  static_cast<long long>(c.other) - static_cast<long long>(c.one));
        }
    }
    if (result.equal()) {
        print("no difference in {} events\n", result.same);
    }
}

int run_compare(compare_request& request) {
    courier::run one = read(request);
    run_request second = static_cast<const run_request&>(request);
    second.file = request.other;
    courier::run other = read(second);
    const courier::run_comparison result = compare(one, other, request.filter);
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
    option_set options =
        to.add("compare",
               "Show the first difference between two recordings, and counts by channel; exit code 1 if they differ",
               [request] { return run_compare(*request); });
    add_file(options, *request);
    options.required("OTHER", request->other, "The other recording");
    add_filters(options, *request);
    options.examples({"courier compare good.jsonl bad.jsonl"});
}

} // namespace tool
