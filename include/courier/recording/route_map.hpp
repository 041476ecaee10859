// Who publishes on which channel, and who hears it.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/recording/run.hpp>
#include <courier/recording/run_filter.hpp>

#include <cstdint>
#include <string>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN

/// A party at one end of a route.
struct route_end {
    std::string party;
    std::uint64_t events = 0;
};

/// A channel, with the parties that publish on it and hear it.
struct route {
    std::string channel;
    std::string payload;
    std::string hub;
    bool is_query = false;
    std::uint64_t events = 0;
    std::uint64_t unheard = 0;
    std::vector<route_end> from; ///< by events, the most first; then by name
    std::vector<route_end> to;   ///< also those that were never served, with 0
};

/// In the order in which the channels were made.
[[nodiscard]] std::vector<route> route_map(const run& of, const run_filter& filter = {});

/// The map as Graphviz has it: parties are underlined, channels are flags, and a line
/// is thicker the more events take it.
[[nodiscard]] std::string as_dot(const std::vector<route>& routes);

WIRED_COURIER_NAMESPACE_END
