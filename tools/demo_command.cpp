// courier demo: a night at Gannet Reef.
#include "commands.hpp"
#include "live_command.hpp"
#include "output.hpp"
#include "paint.hpp"
#include "reefs_request.hpp"

#include <live_nights.hpp>
#include <night.hpp>

#include <fmt/format.h>

#include <cstdio>
#include <memory>
#include <stdexcept>
#include <string>
#include <vector>

namespace tool {

namespace {

struct demo_request {
    reef::night_options night;
    bool quiet = false; ///< the summary only
    bool serve = false; ///< live nights, on a page
    int port = 0;
    int pace = 0; ///< frames a second; 0: as fits what is run
    std::string folder;
    int reefs = 0;      ///< above 0: several, each a process
    int lighthouse = 0; ///< above 0: this process is that one of them
    bool returns = false;
};

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
    std::string idle;
    for (const courier::wire_report& one : wires) {
        caused += one.caused;
        failures += one.failures;
        idle += one.caused == 0 ? (idle.empty() ? "" : ", ") + one.name : "";
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

void print_summary(const demo_request& request, const reef::night_result& result, bool colours) {
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

int serve_nights(const demo_request& request) {
    if (!request.night.record.empty() || request.night.careless) {
        throw std::invalid_argument("--serve runs one night after the other; leave out --record and --careless");
    }
    reef::run_live({request.night, request.port, request.pace == 0 ? 8 : request.pace, request.folder}, told_to_end(),
                   [&](const std::string& page, const std::string& top) {
                       print("the page: {}\n", page);
                       if (!request.folder.empty()) {
                           print("{}: {}\n", request.folder, top);
                       }
                       print("Ctrl-C ends it\n");
                       flush_output();
                   });
    return 0;
}

// Together, or as one of them.
int run_several(const demo_request& request) {
    const reef::night_options usual;
    if (request.serve || request.night.careless || !request.night.wiring.empty() || request.night.record == "-" ||
        request.night.frames != usual.frames || request.night.shake != usual.shake) {
        throw std::invalid_argument("--reefs runs several processes; leave out --serve, --careless, --wiring, --frames "
                                    "and --shake, and give --record a file's name");
    }
    reef::reefs_options options;
    options.reefs = request.reefs;
    options.port = request.port;
    options.pace = request.pace == 0 ? options.pace : request.pace;
    options.seed = request.night.seed;
    options.record = request.night.record;
    if (request.lighthouse == 0) {
        return run_reefs(options, request.quiet);
    }
    if (request.lighthouse > request.reefs || request.port == 0) {
        throw std::invalid_argument("--lighthouse is one of --reefs, and --port is that of their broker");
    }
    return run_as_lighthouse(options, request.lighthouse, request.returns);
}

int run_demo(const demo_request& request) {
    if (request.reefs != 0 || request.lighthouse != 0) {
        return run_several(request);
    }
    if (request.serve) {
        return serve_nights(request);
    }
    if (request.night.record == "-") {
        throw std::invalid_argument("--record - : a recording goes into a file, since the night is printed; name one");
    }
    const bool colours = colours_wanted();
    const reef::night_result result = reef::run_night(request.night, [&](const reef::log_line& line) {
        if (!request.quiet) {
            print_line(line, colours);
        }
    });
    if (!request.quiet) {
        print("\n");
    }
    print_summary(request, result, colours);
    return 0;
}

} // namespace

void add_demo(command_line& to) {
    auto request = std::make_shared<demo_request>();
    to.add("demo", "Run a storm night at Gannet Reef and print what was published",
           [request] { return run_demo(*request); })
        .number("--seed", request->night.seed, "Random seed; the same seed gives the same night", 0)
        .number("--frames", request->night.frames, "Length of the night in frames, 1 to 100000", 1, 100000)
        .flag("--quiet", request->quiet, "Print the summary only")
        .file("--record", request->night.record, "Record the night into this file, for the other commands")
        .file("--wiring", request->night.wiring, "Who reacts to what, instead of demo/reef.toml, which is built in")
        .flag("--careless", request->night.careless, "Add systems that make every mistake 'courier audit' finds")
        .number("--shake", request->night.shake, "Order within stages decided by this seed; 0: normal", 0)
        .flag("--serve", request->serve, "Let the nights go on, one after the other, on a page in a browser")
        .number("--port", request->port,
                "With --serve: where to listen; 0: any port that is free. With --lighthouse: the broker's", 0, 65535)
        .number("--pace", request->pace, "Frames a second, 1 to 1000; 0: 8 with --serve, 40 with --reefs", 0, 1000)
        .number("--reefs", request->reefs,
                "So many lighthouses, 1 to 20, as processes, with a harbour office and a broker", 0, 20)
        .number("--lighthouse", request->lighthouse, "With --reefs and --port: be this one of them", 0, 20)
        .flag("--returns", request->returns, "With --lighthouse: it was there before")
        .file("--folder", request->folder, "With --serve: files to serve beside the page, such as examples/hud")
        .examples({"courier demo --seed 7", "courier demo --seed 7 --quiet --record night.jsonl",
                   "courier demo --careless --record careless.jsonl --quiet",
                   "courier demo --wiring demo/reef.toml --quiet", "courier demo --serve --folder examples/hud",
                   "courier demo --reefs 3 --record night.jsonl"});
}

} // namespace tool
