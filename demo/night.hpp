// One night at Gannet Reef, headless and repeatable.
#pragma once

#include "night_log.hpp"

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

namespace reef {

struct night_options {
    std::uint64_t seed = 1;
    int frames = 120;        ///< at least 1
    bool careless = false;   ///< with systems that make every mistake there is
    std::uint64_t shake = 0; ///< not 0: the order inside stages is shaken by this seed
    std::string record = {}; ///< a file to record into; empty: nothing is
};

struct night_result {
    std::vector<channel_sums> channels;
    std::vector<std::string> heard_nothing; ///< listeners that were never served
    std::string board;                      ///< what the watch board showed at the end
    std::size_t orders_open = 0;
};

/// What came of a recorded night that was run once more.
struct replayed_night {
    std::uint64_t events = 0; ///< that were the same
    std::uint64_t of = 0;
    std::optional<std::string> difference; ///< the first one, with both sides
};

/// Runs the night and hands every line of its log to `sink`. The same options
/// give the same lines.
/// Throws `courier::recording_error` when the file to record into cannot be made.
night_result run_night(const night_options& options, const night_log::line_sink& sink);

/// Runs a recorded night once more: the lightning strikes as it did, everything
/// else has to follow. Throws `courier::recording_error` when the recording is
/// of something else.
replayed_night replay_night(const std::string& file);

} // namespace reef
