// SPDX-License-Identifier: MIT
// courier systems: who depends on whom, and what could be updated at one time.
#include "commands.hpp"
#include "output.hpp"
#include "paint.hpp"
#include "picture_request.hpp"

#include <courier/data/json.hpp>
#include <courier/recording/system_map.hpp>

#include <fmt/format.h>

#include <memory>

namespace tool {

namespace {

std::string listed(const courier::system_books& system, bool changes) {
    std::string list;
    for (const courier::system_books::need& need : system.needs) {
        if (need.changes == changes) {
            list += (list.empty() ? "" : ", ") + need.name;
        }
    }
    return list;
}

std::string listed(const std::vector<std::string>& names) {
    std::string list;
    for (const std::string& name : names) {
        list += (list.empty() ? "" : ", ") + name;
    }
    return list;
}

void print_system(const courier::system_books& s, bool colours) {
    const std::string how = s.lent ? "lent" : !s.updated ? "no update" : fmt::format("wave {}", s.wave);
    print("{}  {}\n", paint(s.name, colour::yellow, colours),
          paint(fmt::format("{}{}{}", how, s.paused ? ", paused" : "",
                            s.teams.empty() ? "" : fmt::format(", team {}", listed(s.teams))),
                colour::grey, colours));
    if (const std::string changes = listed(s, true); !changes.empty()) {
        print("  {} {}\n", paint("changes", colour::grey, colours), changes);
    }
    if (const std::string reads = listed(s, false); !reads.empty()) {
        print("  {}   {}\n", paint("reads", colour::grey, colours), reads);
    }
}

int run_systems(picture_request& request) {
    check_picture(request);
    const courier::run recorded = read(request, false);
    draw_picture(request, as_dot(recorded.systems));
    if (request.json) {
        print_json_list(recorded.systems);
    } else if (!request.wants_picture()) {
        const bool colours = colours_wanted();
        for (const courier::system_books& s : recorded.systems) {
            print_system(s, colours);
        }
        print("{}\n", paint(recorded.systems.empty() ? "no systems were recorded; a game has some when it uses "
                                                       "courier::systems"
                                                     : "systems of one wave can run at the same time: none "
                                                       "changes what another uses",
                            colour::grey, colours));
        print_as_of(recorded);
    }
    return 0;
}

} // namespace

void add_systems(command_line& to) {
    auto request = std::make_shared<picture_request>();
    option_set options = to.add("systems", "Show which systems depend on which, in the order of their updates",
                                [request] { return run_systems(*request); });
    add_file(options, *request);
    add_picture(options, *request);
    options.examples({"courier systems night.jsonl", "courier systems night.jsonl --svg systems.svg"});
}

} // namespace tool
