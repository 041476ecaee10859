// Answers of the teller, which the page gets as JSON with these names.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/books.hpp>

#include <cstdint>
#include <string>
#include <vector>

struct shown_channel {
    std::string name;
    std::string payload;
    std::string hub;
    bool is_query = false;
    std::uint32_t open = 0;
};

struct shown_run {
    std::string source;
    std::string file;
    std::uint32_t first_frame = 0;
    std::uint32_t frames = 0;
    std::uint64_t skipped = 0;
    std::uint64_t forgotten = 0;
    bool finished = false;
    std::vector<shown_channel> channels;
    std::vector<std::string> parties;
    std::vector<std::string> party_lines; ///< by party, a line of code that subscribes or publishes for it
    std::vector<courier::system_books> systems;
    std::vector<courier::phases_books> phases;
    std::vector<courier::waiting_books> waiting;
    std::vector<courier::left_waiting_books> left_waiting;
};

struct skipped_turns {
    std::string why;
    std::uint64_t times = 0;
};

struct shown_subscription {
    std::uint32_t number = 0;
    std::string party;
    bool has_name = false;
    std::string channel;
    std::string at;
    std::string stage;
    std::string to;
    std::uint32_t since = 0;
    bool paused = false;
    std::vector<skipped_turns> skipped;
};

struct shown_turn {
    std::uint32_t subscription = 0;
    std::string party;
    std::string at;
    std::string why;      ///< empty: it was served
    std::uint32_t ns = 0; ///< 0: not measured
};

/// An event of a chain, or of what followed.
struct tree_row {
    std::uint64_t id = 0;
    std::uint32_t depth = 0;
    std::int32_t parent = -1; ///< row
    std::string channel;
    bool is_post = false;
    std::string maker;
    std::uint32_t frame = 0;
    std::string at;
    std::string origin;
};

struct shown_event {
    std::string sentence;
    std::string origin;
    std::string origin_run;
    std::string stopped_by;
    std::vector<std::string> remarks;
    std::vector<shown_turn> turns;
    std::vector<tree_row> tree;
    std::uint32_t causes = 0; ///< rows before the event's own
    bool more_followed = false;
};

/// By column of a picture of some frames.
struct shown_density {
    std::vector<std::uint32_t> all;     ///< publishes
    std::vector<std::uint32_t> passing; ///< those that pass the filter
    std::vector<std::uint32_t> failed;  ///< calls of handlers that threw
};
