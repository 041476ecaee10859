// Whether what was recorded fits a catalogue.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/recording/run.hpp>
#include <courier/wiring/catalogue.hpp>

#include <cstdint>
#include <string>
#include <vector>

namespace tool {

struct recording_misfit {
    std::string what;         ///< "channel 'wyrms.sighted' has no field 'distance'"
    std::uint64_t events = 0; ///< how many are concerned
};

/// Of channels that `before` has; what the library records beside them fits any.
std::vector<recording_misfit> misfits(const courier::run& recorded, const courier::catalogue& before,
                                      const courier::catalogue& after);

} // namespace tool
