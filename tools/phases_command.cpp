// courier phases: the phases there are, and how they were moved through.
#include "commands.hpp"
#include "drawing.hpp"
#include "json.hpp"
#include "output.hpp"
#include "paint.hpp"
#include "run_request.hpp"

#include <courier/recording/phase_map.hpp>

#include <fmt/format.h>

#include <memory>

namespace tool {

namespace {

struct phases_request : run_request {
    std::string dot;
    std::string svg;
};

void print_json(const std::vector<courier::phases_books>& sets) {
    json all = json::array();
    for (const courier::phases_books& set : sets) {
        json allowed = json::array();
        for (const courier::phases_books::move& move : set.allowed) {
            allowed.add({{"from", move.from}, {"to", move.to}});
        }
        json history = json::array();
        for (const courier::phases_books::step& step : set.history) {
            history.add({{"frame", step.frame},
                         {"from", step.from},
                         {"to", step.to},
                         {"cause", step.cause},
                         {"at", step.where.text()}});
        }
        all.add({{"name", set.name},
                 {"now", set.now},
                 {"phases", set.phases},
                 {"moves", set.moves},
                 {"refused", set.refused},
                 {"allowed", std::move(allowed)},
                 {"history", std::move(history)}});
    }
    fmt::print("{}\n", all.on_lines());
}

void print_set(const courier::phases_books& set, bool colours) {
    fmt::print("{}  {}\n", paint(set.name, colour::cyan, colours),
               paint(fmt::format("is {}; {} moves{}", set.now, set.moves,
                                 set.refused != 0 ? fmt::format(", {} refused", set.refused) : ""),
                     colour::grey, colours));
    for (const std::string& phase : set.phases) {
        std::string to;
        for (const courier::phases_books::move& move : set.allowed) {
            to += move.from == phase ? (to.empty() ? "" : ", ") + move.to : "";
        }
        fmt::print("  {:<16} {} {}\n", phase, paint("may go to", colour::grey, colours), to.empty() ? "nowhere" : to);
    }
    for (const courier::phases_books::step& step : set.history) {
        fmt::print("  frame {:>5}  {} -> {}{}  {}\n", step.frame, step.from, step.to,
                   step.cause != 0 ? fmt::format(", caused by event {}", step.cause) : "",
                   paint(step.where.text(), colour::grey, colours));
    }
}

int run_phases(phases_request& request) {
    check_not_the_recording(request.file, "--dot", request.dot);
    check_not_the_recording(request.file, "--svg", request.svg);
    const courier::run recorded = read(request, false);
    if (!request.dot.empty()) {
        write_text(request.dot, as_dot(recorded.phases));
    }
    if (!request.svg.empty()) {
        draw("dot", {"-Tsvg", "-o"}, "graphviz", as_dot(recorded.phases), request.svg);
    }
    if (request.json) {
        print_json(recorded.phases);
    } else if (request.dot.empty() && request.svg.empty()) {
        const bool colours = colours_wanted();
        for (const courier::phases_books& set : recorded.phases) {
            print_set(set, colours);
        }
        if (recorded.phases.empty()) {
            fmt::print("no phases were recorded; a game has some when it uses courier::phases\n");
        }
    }
    return 0;
}

} // namespace

void add_phases(command_line& to) {
    auto request = std::make_shared<phases_request>();
    option_set options = to.add("phases", "Show the phases of the game, their moves, and when they were made",
                                [request] { return run_phases(*request); });
    add_file(options, *request);
    options.file("--dot", request->dot, "Write the picture in Graphviz' language to this file ('-': standard output)")
        .file("--svg", request->svg, "Draw the picture into this file")
        .examples({"courier phases night.jsonl", "courier phases night.jsonl --svg phases.svg"});
}

} // namespace tool
