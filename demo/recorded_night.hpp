// Nights that go into a recording, and nights that come from one.
#pragma once

#include "night.hpp"

#include <cstdint>
#include <functional>
#include <optional>
#include <string>
#include <string_view>

namespace reef {

/// Runs the night as `run_night()` does, and records it into `file`. Throws
/// `courier::recording_error` when that cannot be written.
night_result record_night(const night_options& options, const std::string& file, const night_log::line_sink& sink);

/// Runs the night as `run_night()` does, with its log left out, and tells of all that happens on channels
/// whose names begin with `channels`.
night_result narrate_night(const night_options& options, const std::string& channels,
                           const std::function<void(std::string_view line)>& sink);

/// The result of a recorded night that was run once more.
struct replayed_night {
    std::uint64_t events = 0; ///< that were the same
    std::uint64_t of = 0;
    std::optional<std::string> difference; ///< the first one, with both sides
};

/// Runs a recorded night once more: the lightning strikes as it did, everything
/// else has to follow. Throws `courier::recording_error` when the recording is
/// of another program.
replayed_night replay_night(const std::string& file);

} // namespace reef
