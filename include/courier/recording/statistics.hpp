// How much went along each channel, frame by frame.
#pragma once

#include <courier/config.hpp>
#include <courier/recording/run.hpp>
#include <courier/recording/run_filter.hpp>

#include <cstdint>
#include <string>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN

struct channel_statistics {
    std::string channel;
    std::uint64_t published = 0;
    std::uint64_t deliveries = 0;
    std::uint64_t unheard = 0;
    std::uint64_t stopped = 0;
    std::uint64_t posted = 0;
    std::uint64_t max_in_frame = 0;
    std::uint32_t busiest_frame = 0;     ///< the first one with that number
    std::vector<std::uint32_t> by_frame; ///< publishes, from the filter's first frame on
};

struct run_statistics {
    std::uint32_t first_frame = 0;
    std::uint32_t frames = 0;
    std::uint64_t events = 0;                 ///< publishes
    std::vector<channel_statistics> channels; ///< by publishes, the most first
    std::vector<std::uint32_t> by_frame;      ///< of all channels together
};

[[nodiscard]] run_statistics statistics_of(const run& of, const run_filter& filter = {});

/// A channel's publishes of the whole run, and frame by frame those of its latest stretch.
struct channel_rate {
    std::string channel;
    std::uint64_t published = 0;
    std::uint64_t deliveries = 0;
    std::uint64_t unheard = 0;
    std::uint64_t latest = 0; ///< the newest event
    std::vector<std::uint32_t> by_frame;
};

struct run_rates {
    std::uint32_t first_frame = 0; ///< of the stretch
    std::uint32_t frames = 0;
    double seconds = 0;                 ///< of game time in it; a restarted clock counts as standing still
    std::vector<channel_rate> channels; ///< by publishes, the most first; those only that have any
};

/// The stretch is the latest `span` frames that are over.
[[nodiscard]] run_rates rates_of(const run& of, const run_filter& filter, std::uint32_t span);

WIRED_COURIER_NAMESPACE_END
