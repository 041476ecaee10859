// How much went along each channel, frame by frame.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/recording/run.hpp>
#include <courier/recording/run_filter.hpp>

#include <cstddef>
#include <cstdint>
#include <string>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN

/// What went along one channel, in the frames that were asked for.
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

/// The measured calls of one handler. A call includes whatever it publishes.
struct handler_statistics {
    std::string party;
    std::string channel;
    std::string at; ///< the line that subscribed it
    std::uint64_t calls = 0;
    std::uint64_t total_ns = 0;
    std::uint32_t longest_ns = 0;
    std::uint64_t longest = 0; ///< the event of the longest call
};

/// What went along all channels, in the frames that were asked for.
struct run_statistics {
    std::uint32_t first_frame = 0;
    std::uint32_t frames = 0;
    std::uint64_t events = 0;                 ///< publishes
    std::vector<channel_statistics> channels; ///< by publishes, the most first
    std::vector<std::uint32_t> by_frame;      ///< of all channels together
    std::vector<handler_statistics> slowest;  ///< the ten with the longest calls
};

/// Counts of the events that pass `filter`: of channels, parties and handlers. Looks at each event once.
[[nodiscard]] run_statistics statistics_of(const run& of, const run_filter& filter = {});

/// A channel's publishes that pass a filter, and frame by frame those of a stretch.
struct channel_rate {
    std::string channel;
    std::uint64_t published = 0;
    std::uint64_t deliveries = 0;
    std::uint64_t unheard = 0;
    std::uint64_t failed = 0;    ///< calls of handlers that threw
    std::uint64_t latest = 0;    ///< the newest event
    bool lost_listeners = false; ///< was heard once, has no subscription now, and its newest event reached nobody
    std::vector<std::uint32_t> by_frame;
};

/// The rates of all channels.
struct run_rates {
    std::uint32_t first_frame = 0; ///< of the stretch
    std::uint32_t frames = 0;
    double seconds = 0;                 ///< of game time in it; a restarted clock counts as standing still
    std::vector<channel_rate> channels; ///< by publishes, the most first; those only that have any
};

/// The stretch is the latest `span` frames that are over and that the filter includes.
[[nodiscard]] run_rates rates_of(const run& of, const run_filter& filter, std::uint32_t span);

/// At most `most` handlers, the longest call first. Empty where the recorder measured no times.
[[nodiscard]] std::vector<handler_statistics> slowest_handlers(const run& of, const run_filter& filter = {},
                                                               std::size_t most = 10);

WIRED_COURIER_NAMESPACE_END
