// SPDX-License-Identifier: MIT
// courier serve: the page, on a recording.
#include "commands.hpp"
#include "live_command.hpp"
#include "output.hpp"
#include "run_request.hpp"

#include <courier/gateway/gateway.hpp>
#include <courier/gateway/report.hpp>

#include <fmt/format.h>

#include <chrono>
#include <memory>
#include <stdexcept>
#include <thread>

namespace tool {

namespace {

struct serve_request : run_request {
    int port = 0;
    std::chrono::nanoseconds lasts{};
};

int run_serve(serve_request& request) {
    if (!courier::has_page()) {
        throw courier::gateway_error(courier::gateway_code::no_page, "this build has no page to serve", {},
                                     "build with npm and the packages of scripts/page_packages.txt, and with "
                                     "WIRED_COURIER_BUILD_PAGE on");
    }
    courier::gateway out({.port = request.port, .name = request.file});
    out.show(read(request));
    print("{} is at {}page\nCtrl-C ends it\n", request.file, out.address());
    flush_output();
    const auto begun = std::chrono::steady_clock::now();
    const std::atomic<bool>& over = told_to_end();
    while (!over && (request.lasts.count() == 0 || std::chrono::steady_clock::now() - begun < request.lasts)) {
        out.take_in();
        std::this_thread::sleep_for(std::chrono::milliseconds(20));
    }
    return 0;
}

} // namespace

void add_serve(command_line& to) {
    auto request = std::make_shared<serve_request>();
    option_set options = to.add("serve", "Show a recording on a page, in a browser on this machine",
                                [request] { return run_serve(*request); });
    options.required("FILE", request->file, "A recording")
        .number("--port", request->port, "Where to listen; 0: any port that is free", 0, 65535)
        .time("--for", request->lasts, "End after this time; 0s: when it is stopped", {}, std::chrono::hours(240))
        .examples({"courier serve night.jsonl", "courier serve night.jsonl --port 8080"});
}

} // namespace tool
