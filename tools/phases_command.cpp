// SPDX-License-Identifier: MIT
// courier phases: the phases there are, and how they were moved through.
#include "commands.hpp"
#include "output.hpp"
#include "paint.hpp"
#include "picture_request.hpp"

#include <courier/data/json.hpp>
#include <courier/recording/phase_map.hpp>

#include <fmt/format.h>

#include <memory>

namespace tool {

namespace {

void print_set(const courier::phases_books& set, bool colours) {
    print("{}  {}\n", paint(set.name, colour::cyan, colours),
          paint(fmt::format("{} {}; {}{}", set.ended ? "ended in" : "is", set.now, counted(set.moves, "move"),
                            set.refused != 0 ? fmt::format(", {} refused", set.refused) : ""),
                colour::grey, colours));
    for (const std::string& phase : set.phases) {
        std::string to;
        for (const courier::phases_books::move& move : set.allowed) {
            to += move.from == phase ? (to.empty() ? "" : ", ") + move.to : "";
        }
        print("  {:<16} {} {}\n", phase, paint("may go to", colour::grey, colours), to.empty() ? "nowhere" : to);
    }
    for (const courier::phases_books::step& step : set.history) {
        print("  frame {:>5}  {} -> {}{}  {}\n", step.frame, step.from, step.to,
              step.cause != 0 ? fmt::format(", caused by event {}", step.cause) : "",
              paint(step.where.text(), colour::grey, colours));
    }
}

int run_phases(picture_request& request) {
    check_picture(request);
    const courier::run recorded = read(request, false);
    draw_picture(request, as_dot(recorded.phases));
    if (request.json) {
        print_json_list(recorded.phases);
    } else if (!request.wants_picture()) {
        const bool colours = colours_wanted();
        for (const courier::phases_books& set : recorded.phases) {
            print_set(set, colours);
        }
        if (recorded.phases.empty()) {
            print("no phases were recorded; a game has some when it uses courier::phases\n");
        }
        print_as_of(recorded);
    }
    return 0;
}

} // namespace

void add_phases(command_line& to) {
    auto request = std::make_shared<picture_request>();
    option_set options = to.add("phases", "Show the phases of the game, their moves, and when they were made",
                                [request] { return run_phases(*request); });
    add_file(options, *request);
    add_picture(options, *request);
    options.examples({"courier phases night.jsonl", "courier phases night.jsonl --svg phases.svg"});
}

} // namespace tool
