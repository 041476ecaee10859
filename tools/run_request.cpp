// SPDX-License-Identifier: MIT
#include "run_request.hpp"

#include "output.hpp"

#include <fmt/format.h>

#include <charconv>
#include <stdexcept>

#include <unistd.h>

namespace tool {

void add_file(option_set& options, run_request& request) {
    options.required("FILE", request.file, "A recording").flag("--json", request.json, "Print JSON, for other tools");
}

void add_filters(option_set& options, run_request& request) {
    options.text("--channel", request.filter.channel, "Only what this channel carried")
        .text("--who", request.filter.party, "Only what this subscriber or publisher made or heard")
        .text("--address", request.filter.address, "Only what was for this address")
        .range("--frames", request.frames, "Only these frames: 10, 10:20, 10: or :20");
}

namespace {

std::uint32_t frame_in(const std::string& text, const std::string& all, std::uint32_t otherwise) {
    if (text.empty()) {
        return otherwise;
    }
    std::uint32_t frame = 0;
    const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), frame);
    if (error != std::errc{} || end != text.data() + text.size()) {
        throw std::invalid_argument(fmt::format("--frames: '{}' is not a range of frames such as 10:20", all));
    }
    return frame;
}

} // namespace

void read_frames(run_request& request) {
    if (request.frames.empty()) {
        return;
    }
    const std::size_t colon = request.frames.find(':');
    request.filter.first_frame = frame_in(request.frames.substr(0, colon), request.frames, 0);
    request.filter.last_frame = colon == std::string::npos
                                    ? request.filter.first_frame
                                    : frame_in(request.frames.substr(colon + 1), request.frames, UINT32_MAX);
    if (request.filter.last_frame < request.filter.first_frame) {
        throw std::invalid_argument(
            fmt::format("--frames: {} ends before it begins; write the lower frame first", request.frames));
    }
}

courier::run read(run_request& request, bool payloads) {
    read_frames(request);
    courier::read_options options;
    options.payloads = payloads;
    const bool shows = isatty(STDERR_FILENO) == 1;
    bool shown = false;
    if (shows) {
        options.progress = [&](std::uint64_t bytes, std::uint64_t of) {
            shown = true;
            clear_line();
            say(fmt::format("reading {}: {} %", request.file, of != 0 ? bytes * 100 / of : 100));
        };
    }
    courier::run recorded = courier::read_run(request.file, options);
    if (shown) {
        clear_line();
    }
    courier::check_names(recorded, request.filter);
    warn_of(recorded);
    return recorded;
}

void warn_of(const courier::run& recorded) {
    if (recorded.cut || !recorded.finished || recorded.skipped != 0) {
        say(fmt::format("courier: {}: {}\n", recorded.file, recorded.state()));
    }
}

void print_as_of(const courier::run& recorded) {
    if (!recorded.finished) {
        print(
            "as of frame {}; what happened from then to frame {} is not in it, since the recording was not finished\n",
            recorded.state_frame, recorded.frames());
    }
}

} // namespace tool
