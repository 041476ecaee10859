// Nights at Gannet Reef as they go on, for pages and displays.
#pragma once

#include "night.hpp"

#include <atomic>
#include <functional>
#include <string>

namespace reef {

struct live_options {
    night_options night;
    int port = 0;
    int frames_a_second = 8;
    std::string folder = {}; ///< files to serve, such as a display; empty: none
};

/// Runs one night after the other, each with the next seed, until `over`; `started` is
/// told the addresses. Throws as `run_night()` does, and `courier::gateway_error`.
void run_live(const live_options& options, const std::atomic<bool>& over,
              const std::function<void(const std::string& page, const std::string& top)>& started);

} // namespace reef
