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
    std::uint64_t most_in_frame = 0;
    std::uint32_t busiest_frame = 0;     ///< the first one with so many
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

WIRED_COURIER_NAMESPACE_END
