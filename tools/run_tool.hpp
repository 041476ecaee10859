// A program with commands: reads its arguments, and turns what is thrown into a message and an exit code.
// SPDX-License-Identifier: MIT
#pragma once

#include "command_line.hpp"

namespace tool {

/// `add` adds the commands. Returns the exit code of the one that ran, or 2 after
/// bad use and broken files.
int run_tool(int argc, char** argv, const char* footer, void (*add)(command_line&));

} // namespace tool
