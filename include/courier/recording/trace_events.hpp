// A run for the time lines of profilers.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/recording/run.hpp>

#include <functional>
#include <string_view>

WIRED_COURIER_NAMESPACE_BEGIN

/// Writes the run in the Trace Event format, as JSON, piece by piece: frames, events, and
/// handlers on a line of their own for each party, and arrows from causes to effects.
/// Times are of the game; within a frame, of which a recording knows only the end,
/// events are spread evenly, in their order. A handler is as long as it took, where
/// that was measured, and no longer than its share of the frame.
void write_trace_events(const run& of, const std::function<void(std::string_view)>& to);

WIRED_COURIER_NAMESPACE_END
