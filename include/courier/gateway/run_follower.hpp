// A live run, read from another process.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>

#include <cstdint>
#include <memory>
#include <string>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN

/// Follows the run that a gateway shows, by its stream, on a thread of its own; a
/// broken connection is made again, and continues where it stopped.
///
///     courier::run_follower from{"http://127.0.0.1:8080/"};
///     for (const std::string& line : from.take()) { builder.line(line); }
///
/// `builder` is a `run_builder` that reads with `read_options::joined_late`. Lines
/// that are not taken wait, at most 100 000; then nothing more is read until they are. Throws
/// `gateway_error` for an address that is none.
class run_follower {
public:
    /// Connects from now on, and again when the connection breaks. Throws `gateway_error` when `address` is
    /// none.
    explicit run_follower(const std::string& address);
    run_follower(const run_follower&) = delete;
    run_follower& operator=(const run_follower&) = delete;
    ~run_follower();

    /// The lines that have come since the last time. From any one thread.
    [[nodiscard]] std::vector<std::string> take();
    /// Events that could not be read, so far.
    [[nodiscard]] std::uint64_t missed() const;
    /// The game has ended, and all that it has told has been taken.
    [[nodiscard]] bool over() const;
    /// Why there is no connection right now; empty: there is.
    [[nodiscard]] std::string trouble() const;

private:
    class implementation;
    std::unique_ptr<implementation> all_;
};

WIRED_COURIER_NAMESPACE_END
