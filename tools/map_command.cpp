// SPDX-License-Identifier: MIT
// courier map: who publishes, and who hears.
#include "commands.hpp"
#include "output.hpp"
#include "paint.hpp"
#include "picture_request.hpp"

#include <courier/data/json.hpp>
#include <courier/recording/route_map.hpp>

#include <fmt/format.h>

#include <memory>

namespace tool {

namespace {

std::string listed(const std::vector<courier::route_end>& ends) {
    std::string list;
    for (const courier::route_end& end : ends) {
        list += fmt::format("{}{} {}", list.empty() ? "" : ", ", end.party, end.events);
    }
    return list;
}

void print_route(const courier::route& r, bool colours) {
    const std::string what = fmt::format("{}{}{}", r.payload, r.is_query ? ", a query" : "",
                                         r.hub.empty() ? "" : fmt::format(", in hub {}", r.hub));
    print("{}  {}\n", paint(r.channel, colour::cyan, colours), paint(what, colour::grey, colours));
    print("  {} {}\n", paint("from", colour::grey, colours),
          r.from.empty() ? "nobody" : paint(listed(r.from), colour::yellow, colours));
    print("  {}   {}\n", paint("to", colour::grey, colours),
          r.to.empty() ? "nobody" : paint(listed(r.to), colour::yellow, colours));
}

int run_map(picture_request& request) {
    check_picture(request);
    const courier::run recorded = read(request, false);
    const std::vector<courier::route> routes = route_map(recorded, request.filter);
    draw_picture(request, as_dot(routes));
    if (request.json) {
        print_json_list(routes);
    } else if (!request.wants_picture()) {
        const bool colours = colours_wanted();
        for (const courier::route& r : routes) {
            print_route(r, colours);
        }
    }
    return 0;
}

} // namespace

void add_map(command_line& to) {
    auto request = std::make_shared<picture_request>();
    option_set options =
        to.add("map", "Show who publishes and who hears it, with counts", [request] { return run_map(*request); });
    add_file(options, *request);
    add_picture(options, *request);
    add_filters(options, *request);
    options.examples({"courier map night.jsonl", "courier map night.jsonl --svg map.svg"});
}

} // namespace tool
