// How a gateway listens, and what it puts up with.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>

#include <chrono>
#include <cstddef>
#include <filesystem>
#include <string>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN

/// Written as `{.port = 8080}`. Whatever waits or grows has its bound here.
struct gateway_options {
    /// Where it listens. Another address than one of this machine's own lets others
    /// read shown channels; then list in `hosts` the names that they use for this machine.
    std::string host = "127.0.0.1";
    int port = 0; ///< 0: any that is free; see `gateway::address()`

    /// What the page and the metrics call this game.
    std::string name = "game";

    /// What a request that changes something has to bring along, as
    /// "Authorization: Bearer TOKEN" (RFC 6750); empty: one is made up, see
    /// `gateway::token()`.
    std::string token = {};

    /// Names that it may be called by, beside its address and "localhost":
    /// "tv.reef:8080".
    std::vector<std::string> hosts = {};
    /// Pages from elsewhere that may read and, with the token, change something:
    /// "http://hud.reef:3000"; "null" for pages from files.
    std::vector<std::string> origins = {};

    /// Files to serve, such as a page of one's own; empty: none.
    std::filesystem::path folder = {};

    std::size_t max_connections = 192;  ///< at a time; more are turned away at once
    std::size_t max_readers = 96;       ///< of these, that read a stream
    std::size_t max_readers_each = 64;  ///< of these, from one address
    unsigned requests_per_second = 100; ///< of all together; four times as many may come at once
    /// Of a request that brings the token; the body of any other is not read.
    std::size_t largest_body = std::size_t{1} << 20;
    std::size_t calls_per_frame = 32; ///< actions and payloads; the rest waits for the next frame

    std::chrono::milliseconds request_time{5000}; ///< for one request to come, from its first byte on
    std::chrono::milliseconds idle_time{15000};   ///< for the next one on the same connection
    std::chrono::milliseconds answer_time{2000};  ///< for the game to come round to it
    std::chrono::milliseconds stall_time{5000};   ///< for a reader to take something

    /// Bytes of the latest events that a reader who lost its connection can catch up
    /// on, for each of the two streams; one that is further behind is dropped.
    std::size_t max_remembered = std::size_t{4} << 20;
    /// Bytes that may wait between the game and the gateway's threads, about; what does
    /// not fit is left out, and readers get an event `missed`.
    std::size_t max_waiting = std::size_t{8} << 20;
};

WIRED_COURIER_NAMESPACE_END
