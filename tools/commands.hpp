// The commands. Each adds itself to the command line.
// SPDX-License-Identifier: MIT
#pragma once

#include "command_line.hpp"

namespace tool {

void add_demo(command_line& to);
void add_explain(command_line& to);
void add_audit(command_line& to);
void add_map(command_line& to);
void add_lanes(command_line& to);
void add_stats(command_line& to);
void add_replay(command_line& to);
void add_compare(command_line& to);
void add_watch(command_line& to);
void add_systems(command_line& to);
void add_phases(command_line& to);
void add_catalogue(command_line& to);
void add_stub(command_line& to);
void add_check(command_line& to);
void add_changes(command_line& to);
void add_codes(command_line& to);
void add_new(command_line& to);
void add_serve(command_line& to);
void add_report(command_line& to);
void add_trace(command_line& to);

} // namespace tool
