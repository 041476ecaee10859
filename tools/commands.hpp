// The commands that read recordings. Each sets itself up, and returns what
// runs it: that prints, and returns the exit code.
#pragma once

#include <CLI/CLI.hpp>

#include <functional>

namespace tool {

using command = std::function<int()>;

command add_explain(CLI::App& app);
command add_audit(CLI::App& app);
command add_map(CLI::App& app);
command add_lanes(CLI::App& app);
command add_stats(CLI::App& app);
command add_replay(CLI::App& app);
command add_compare(CLI::App& app);
command add_watch(CLI::App& app);

} // namespace tool
