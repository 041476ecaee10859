// SPDX-License-Identifier: MIT
#include "night_request.hpp"

#include "output.hpp"
#include "paint.hpp"

#include <fmt/format.h>

#include <cstdint>
#include <map>
#include <string>
#include <vector>

namespace tool {

namespace {

colour colour_of(reef::tint t) {
    switch (t) {
    case reef::tint::frame:
        return colour::bold;
    case reef::tint::channel:
        return colour::cyan;
    case reef::tint::party:
        return colour::yellow;
    case reef::tint::quiet:
        return colour::grey;
    default:
        return colour::none;
    }
}

void print_line(const reef::log_line& line, bool colours) {
    std::string text;
    for (const reef::log_piece& piece : line) {
        text += paint(piece.text, colour_of(piece.colour), colours);
    }
    print("{}\n", text);
}

std::string listed(const std::vector<std::string>& names) {
    return names.empty() ? "none" : fmt::format("{}", fmt::join(names, ", "));
}

void print_wires(const std::vector<courier::wire_report>& wires) {
    std::uint64_t caused = 0;
    std::uint64_t failures = 0;
    std::map<std::string, std::uint64_t> by_name; // one with several causes is listed once for each
    for (const courier::wire_report& one : wires) {
        caused += one.caused;
        failures += one.failures;
        by_name[one.name] += one.caused;
    }
    std::string idle;
    for (const courier::wire_report& one : wires) {
        if (const auto found = by_name.find(one.name); found != by_name.end() && found->second == 0) {
            idle += (idle.empty() ? "" : ", ") + one.name;
            by_name.erase(found);
        }
    }
    print("  wires: {}, {} reactions, {} failures\n", wires.size(), caused, failures);
    for (const courier::wire_report& one : wires) {
        if (one.failures != 0) {
            print("    {} ({}:{}) failed {} of {} times, last {}\n", one.name, one.file, one.line, one.failures,
                  one.caused, one.last_failure);
        }
    }
    print("  wires that did nothing: {}\n", idle.empty() ? "none" : idle);
}

void print_summary(const night_request& request, const reef::night_result& result, bool colours) {
    print("{}\n", paint(fmt::format("night over: seed {}, {} frames", request.night.seed, request.night.frames),
                        colour::bold, colours));
    print("  {:<24}{:>10}{:>12}{:>10}{:>10}\n", "channel", "published", "deliveries", "unheard", "stopped");
    std::vector<std::string> unheard;
    for (const reef::channel_sums& c : result.channels) {
        print("  {}{:>10}{:>12}{:>10}{:>10}\n", paint(fmt::format("{:<24}", c.name), colour::cyan, colours),
              c.published, c.deliveries, c.unheard, c.stopped);
        if (c.deliveries == 0 && !c.is_offered) {
            unheard.push_back(c.name);
        }
    }
    print("  channels that nobody heard: {}\n", listed(unheard));
    print("  listeners that heard nothing: {}\n", listed(result.heard_nothing));
    print_wires(result.wires);
    print("  watch board: {}\n", result.board);
    print("  cargo orders still open: {}\n", result.orders_open);
}

} // namespace

void add_night_options(option_set& options, night_request& request) {
    options.number("--seed", request.night.seed, "Random seed; the same seed gives the same night", 0)
        .number("--frames", request.night.frames, "Length of the night in frames, 1 to 100000", 1, 100000)
        .flag("--quiet", request.quiet, "Print the summary only")
        .file("--wiring", request.night.wiring, "Who reacts to what, instead of demo/reef.toml, which is built in")
        .flag("--careless", request.night.careless, "Add systems that make every mistake 'courier audit' finds")
        .number("--order-seed", request.night.order_seed,
                "Shuffle the order within stages by this seed; 0: the order of subscription", 0);
}

void print_night(const night_request& request, const night_runner& run) {
    const bool colours = colours_wanted();
    const reef::night_result result = run([&](const reef::log_line& line) {
        if (!request.quiet) {
            print_line(line, colours);
        }
    });
    if (!request.quiet) {
        print("\n");
    }
    print_summary(request, result, colours);
}

} // namespace tool
