// One night at Gannet Reef, headless and repeatable.
#pragma once

#include "night_log.hpp"

#include <cstdint>
#include <string>
#include <vector>

namespace reef {

struct night_options {
    std::uint64_t seed = 1;
    int frames = 120; ///< at least 1
};

struct night_result {
    std::vector<channel_sums> channels;
    std::vector<std::string> heard_nothing; ///< listeners that were never served
    std::string board;                      ///< what the watch board showed at the end
    std::size_t orders_open = 0;
};

/// Runs the night and hands every line of its log to `sink`. The same options
/// give the same lines.
night_result run_night(const night_options& options, const night_log::line_sink& sink);

} // namespace reef
