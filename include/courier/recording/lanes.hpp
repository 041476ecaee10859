// A stretch of a run as a message sequence chart.
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

/// Which events are on which lane: each party has one, and each outbox.
struct lane_table {
    std::vector<std::string> names;  ///< in the order of their first appearance
    std::vector<std::uint32_t> from; ///< a lane for each event
    /// Where the event's lanes in `to` end; they begin where those of the event before end.
    std::vector<std::uint32_t> end;
    /// For a post the lane of its outbox, for an event the lane of each party that heard it.
    std::vector<std::uint32_t> to;
};

/// `events` are of the run, in its order.
[[nodiscard]] lane_table lanes_of(const run& of, const std::vector<const recorded_event*>& events);

/// One event, from one lane to others.
struct lane_message {
    const recorded_event* event;
    std::size_t from;            ///< lane
    std::vector<std::size_t> to; ///< lanes of its hearers; empty: nobody
    int depth = 0;               ///< how many of the chart's events led to it
};

/// Events as messages between the lanes of parties.
struct lane_chart {
    std::vector<std::string> lanes; ///< parties, in the order of their first appearance
    std::vector<lane_message> messages;
    std::size_t left_out = 0; ///< messages beyond `most`
};

/// The first `most` events that pass the filter.
[[nodiscard]] lane_chart chart_of(const run& of, const run_filter& filter, std::size_t most);

/// The chart in the language of mscgen, which draws it.
[[nodiscard]] std::string as_msc(const run& of, const lane_chart& chart);

WIRED_COURIER_NAMESPACE_END
