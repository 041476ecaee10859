// A night of several reefs: a broker, a process for each lighthouse, and the office here.
// SPDX-License-Identifier: MIT
#pragma once

#include "lighthouse.hpp"

namespace tool {

/// Runs all of it. `record` names what each one's recording is made of: "night.jsonl"
/// gives "night-office.jsonl", "night-reef-1.jsonl" and so on. `quiet`: only the board at
/// the end is printed. Returns the exit code.
int run_reefs(const reef::reefs_options& options, bool quiet);

/// This process is one of the lighthouses.
int run_as_lighthouse(const reef::reefs_options& options, int number, bool returns);

} // namespace tool
