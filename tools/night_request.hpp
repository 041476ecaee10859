// One night at Gannet Reef: its options, and its log on the terminal.
// SPDX-License-Identifier: MIT
#pragma once

#include "command_line.hpp"

#include <night.hpp>

#include <functional>

namespace tool {

struct night_request {
    reef::night_options night;
    bool quiet = false; ///< the summary only
};

/// The help of a command that runs a night.
inline constexpr const char* night_command = "Run a storm night at Gannet Reef and print what was published";

void add_night_options(option_set& options, night_request& request);

/// Runs a night and hands each line of its log to the sink.
using night_runner = std::function<reef::night_result(const reef::night_log::line_sink& sink)>;

/// Prints the log while `run` goes on, and the summary after it.
void print_night(const night_request& request, const night_runner& run);

} // namespace tool
