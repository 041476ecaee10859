// SPDX-License-Identifier: MIT
// courier demo: a night at Gannet Reef.
#include "commands.hpp"
#include "live_command.hpp"
#include "night_request.hpp"
#include "output.hpp"
#include "reefs_request.hpp"

#include <live_nights.hpp>
#include <recorded_night.hpp>

#include <memory>
#include <stdexcept>
#include <string>
#include <string_view>

namespace tool {

namespace {

struct demo_request : night_request {
    std::string record; ///< a file to record into; empty: none
    bool serve = false; ///< live nights, on a page
    int port = 0;
    int pace = 0; ///< frames a second; 0: as fits what is run
    std::string folder;
    bool narrate = false; ///< what the library tells, in place of the night's own log
    std::string only;     ///< what the names of channels begin with that are told of
    int reefs = 0;        ///< above 0: several, each a process
    int lighthouse = 0;   ///< above 0: this process is that one of them
    bool returns = false;
};

int serve_nights(const demo_request& request) {
    if (!request.record.empty() || request.night.careless) {
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
    if (request.serve || request.night.careless || !request.night.wiring.empty() || request.record == "-" ||
        request.night.frames != usual.frames || request.night.order_seed != usual.order_seed) {
        throw std::invalid_argument(
            "--processes runs several processes; leave out --serve, --careless, --wiring, --frames "
            "and --order-seed, and give --record a file's name");
    }
    reef::reefs_options options;
    options.reefs = request.reefs;
    options.port = request.port;
    options.pace = request.pace == 0 ? options.pace : request.pace;
    options.seed = request.night.seed;
    options.record = request.record;
    if (request.lighthouse == 0) {
        return run_reefs(options, request.quiet);
    }
    if (request.lighthouse > request.reefs || request.port == 0) {
        throw std::invalid_argument(
            "--lighthouse is a number from 1 to --processes, and needs the --port of their broker");
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
    if (request.record == "-") {
        throw std::invalid_argument("--record - : a recording goes into a file, since the night is printed; name one");
    }
    if (request.narrate && !request.record.empty()) {
        throw std::invalid_argument("--narrate prints what --record records; leave one of them out");
    }
    print_night(request, [&](const reef::night_log::line_sink& sink) {
        if (request.narrate) {
            return reef::narrate_night(request.night, request.only, [](std::string_view line) { print("{}\n", line); });
        }
        return request.record.empty() ? reef::run_night(request.night, sink)
                                      : reef::record_night(request.night, request.record, sink);
    });
    return 0;
}

} // namespace

void add_demo(command_line& to) {
    auto request = std::make_shared<demo_request>();
    option_set options = to.add("demo", night_command, [request] { return run_demo(*request); });
    add_night_options(options, *request);
    options.file("--record", request->record, "Record the night into this file, for the other commands")
        .flag("--narrate", request->narrate, "Print a line for each event, as courier::narrator tells it")
        .text("--only", request->only, "With --narrate: channels whose names begin so, such as wyrms.")
        .flag("--serve", request->serve, "Run night after night, and show them on a web page")
        .number("--port", request->port, "With --serve: the port to listen on; 0: any that is free", 0, 65535)
        .number("--pace", request->pace, "Frames per second, 1 to 1000; 0: 8 with --serve, 40 with --processes", 0,
                1000)
        .number("--processes", request->reefs,
                "Run this many lighthouses, 1 to 20, each a process, with a harbour office and a broker", 0, 20)
        .number("--lighthouse", request->lighthouse, "Be this one of the processes", 0, 20)
        .hidden()
        .flag("--returns", request->returns, "It was there before")
        .hidden()
        .file("--folder", request->folder, "With --serve: files to serve beside the page, such as examples/hud")
        .examples({"courier demo --seed 7", "courier demo --seed 7 --quiet --record night.jsonl",
                   "courier demo --narrate --only wyrms.", "courier demo --careless --record careless.jsonl --quiet",
                   "courier demo --wiring demo/reef.toml --quiet", "courier demo --serve --folder examples/hud",
                   "courier demo --processes 3 --record night.jsonl"});
}

} // namespace tool
