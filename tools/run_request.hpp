// What the commands that read a recording have in common.
// SPDX-License-Identifier: MIT
#pragma once

#include "command_line.hpp"

#include <courier/recording/read_run.hpp>
#include <courier/recording/run_filter.hpp>

#include <string>

namespace tool {

struct run_request {
    std::string file;
    courier::run_filter filter;
    std::string frames; ///< "10:20", "10:", ":20" or "10"
    bool json = false;
};

/// The file, `--json`, and options that narrow what is looked at.
void add_file(option_set& options, run_request& request);
void add_filters(option_set& options, run_request& request);

/// Puts `frames` into the filter; `read()` does that by itself. Throws
/// `std::invalid_argument`.
void read_frames(run_request& request);

/// Reads the file, with progress on standard error when that is a terminal and
/// the file is long, and checks the filter. Throws `courier::recording_error`,
/// or `std::invalid_argument` for a filter.
courier::run read(run_request& request, bool payloads = true);

/// A line of standard error for what is wrong with the file as a whole.
void warn_of(const courier::run& recorded);

/// Of what is recorded every so many frames: systems, phases and what waits. Prints up to which
/// frame it is known, if the recording was not finished.
void print_as_of(const courier::run& recorded);

} // namespace tool
