// One of several lighthouses, each a process of its own, and the harbour office.
#pragma once

#include "night.hpp"

#include <atomic>
#include <functional>
#include <string>

namespace reef {

/// What those who take part in a night of several reefs have in common.
struct reefs_options {
    int reefs = 3;
    int barges = 3; ///< of each reef
    int port = 0;   ///< of the broker, on the loopback address
    int pace = 40;  ///< frames a second
    std::uint64_t seed = 1;
    std::string record = {}; ///< a file to record into; empty: nothing is
};

/// Runs a lighthouse until `over`: its own night, with barges that come from the reef
/// before and sail on to the next one, the last of them to the office. One that `returns`
/// has none of its own. Throws as `run_night()` does, and `courier::ferry_error`.
void run_lighthouse(const reefs_options& options, int number, bool returns, const std::atomic<bool>& over);

/// What the office decides about lighthouses.
struct lighthouse_control {
    std::function<void(int number)> kill;
    std::function<void(int number)> start_again;
};

struct office_result {
    int home = 0;       ///< barges
    int of = 0;         ///< that set out
    int crates = 0;     ///< that came home
    int lost = 0;       ///< bitten off by wyrms on the way
    int told_again = 0; ///< barges that a lighthouse which came back was told of
    int twice = 0;      ///< legs of a way that were told twice
    std::uint64_t payloads = 0;
    std::uint64_t missing = 0; ///< payloads that did not come
    std::string board;         ///< of all reefs
    bool is_whole = false;     ///< everybody is home
};

/// Runs the office until every barge is home, `over`, or for at most a minute: the board of
/// all reefs, and the water over the bar for those who ask. In the middle of the night it has a
/// lighthouse killed, and started again. Lines say what it hears.
office_result run_office(const reefs_options& options, const lighthouse_control& control, const std::atomic<bool>& over,
                         const std::function<void(const std::string&)>& line);

} // namespace reef
