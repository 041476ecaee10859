// From the lines of a recording to a run.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/recording/recording_fault.hpp>
#include <courier/recording/run.hpp>

#include <cstddef>
#include <cstdint>
#include <functional>
#include <memory>
#include <string>
#include <string_view>

WIRED_COURIER_NAMESPACE_BEGIN

/// How a recording is read.
struct read_options {
    bool payloads = true;     ///< keep them; else they are looked at and left
    bool joined_late = false; ///< lines are from a live run, whose first ones are missing
    std::function<void(std::uint64_t bytes, std::uint64_t of)> progress = {}; ///< every few megabytes
};

/// Reads lines into a run, one after the other.
class run_builder {
public:
    /// Adds lines to `into`, which must outlive it. `file` is for messages.
    explicit run_builder(run& into, std::string file, const read_options& options = {});
    run_builder(const run_builder&) = delete;
    run_builder& operator=(const run_builder&) = delete;
    ~run_builder();

    /// One line without its end. `room` bytes behind it may be read. Throws
    /// `recording_error`.
    void line(std::string_view text, std::size_t room = 0);

    /// Many whole lines, each with its end; `room` bytes behind them, at least
    /// 64, may be read.
    void lines(std::string_view text, std::size_t room);

    /// About how many bytes will come.
    void expect(std::uint64_t bytes);

    /// No more lines for now; the run is in order.
    void done();

    /// Forgets the oldest events beyond this number, with what belongs to them, and subscriptions
    /// that had ended before. A quarter goes at once, so that it is not often. After done().
    void keep_newest(std::size_t events);

private:
    class implementation;
    std::unique_ptr<implementation> all_;
};

WIRED_COURIER_NAMESPACE_END
