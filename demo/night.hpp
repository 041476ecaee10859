// One night at Gannet Reef, headless and repeatable.
#pragma once

#include "night_log.hpp"

#include <courier/ledger.hpp>
#include <courier/wiring/catalogue.hpp>
#include <courier/wiring/wiring.hpp>

#include <cstdint>
#include <functional>
#include <string>
#include <string_view>
#include <vector>

namespace reef {

struct night_options {
    std::uint64_t seed = 1;
    int frames = 120;             ///< at least 1
    bool careless = false;        ///< with systems that make every mistake there is
    std::uint64_t order_seed = 0; ///< not 0: the order inside stages is shaken by this seed
    int barges = 4;               ///< in the convoy
    int cables = 0;               ///< that they have to go; 0: half as many as frames
    std::string wiring = {};      ///< who reacts to what; empty: the file that ships, demo/reef.toml
};

struct night_result {
    std::vector<channel_sums> channels;
    std::vector<std::string> heard_nothing; ///< listeners that were never served
    std::vector<courier::wire_report> wires;
    std::string board; ///< what the watch board showed at the end
    std::size_t orders_open = 0;
};

/// An observer of a night, such as a recorder.
struct night_observer {
    std::function<void(courier::ledger&)> begin; ///< before anything of the night is made
    std::function<void()> end;                   ///< after the last frame, before the systems end
};

/// Runs the night and hands every line of its log to `sink`. The same options
/// give the same lines. Throws `courier::wiring_error` when the wiring is wrong, and
/// what the observer throws.
night_result run_night(const night_options& options, const night_log::line_sink& sink,
                       const night_observer& observer = {});

/// What of the night can be wired, with the names of all objects that may come.
courier::catalogue night_catalogue();

/// The wiring that ships.
std::string_view shipped_wiring();

} // namespace reef
