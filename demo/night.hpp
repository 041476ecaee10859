// One night at Gannet Reef, headless and repeatable.
#pragma once

#include "night_log.hpp"

#include <courier/wiring/catalogue.hpp>
#include <courier/wiring/wiring.hpp>

#include <cstdint>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace reef {

struct night_options {
    std::uint64_t seed = 1;
    int frames = 120;        ///< at least 1
    bool careless = false;   ///< with systems that make every mistake there is
    std::uint64_t shake = 0; ///< not 0: the order inside stages is shaken by this seed
    std::string record = {}; ///< a file to record into; empty: nothing is
    int barges = 4;          ///< in the convoy
    int cables = 0;          ///< that they have to go; 0: half as many as frames
    std::string wiring = {}; ///< who reacts to what; empty: the file that ships, demo/reef.toml
};

struct night_result {
    std::vector<channel_sums> channels;
    std::vector<std::string> heard_nothing; ///< listeners that were never served
    std::vector<courier::wire_report> wires;
    std::string board; ///< what the watch board showed at the end
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
/// Throws `courier::recording_error` when the file to record into cannot be made,
/// and `courier::wiring_error` when that of the wiring is wrong.
night_result run_night(const night_options& options, const night_log::line_sink& sink);

/// Runs a recorded night once more: the lightning strikes as it did, everything
/// else has to follow. Throws `courier::recording_error` when the recording is
/// of something else.
replayed_night replay_night(const std::string& file);

/// What of the night can be wired, with the names of all objects that may come.
courier::catalogue night_catalogue();

/// The wiring that ships.
std::string_view shipped_wiring();

} // namespace reef
