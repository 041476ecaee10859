// Records of what there is, apart from events: what waits, systems, phases.
// They are written every 256 frames and at the end; described as in records.hpp.
#pragma once

#include "recording/record_parts.hpp"

#include <cstdint>
#include <string_view>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

struct waiting_sequence {
    std::string_view name;
    std::string_view started;
    std::string_view at;
    std::string_view waits_for;
    std::string_view channel;
    std::uint64_t since = 0;
    bool source_gone = false;

    template <class Self, class With>
    static void data(Self& self, With& with) {
        with(field{"name", "the subscriber's", always}, self.name);
        with(field{"started", "the line of code", always}, self.started);
        with(field{"at", "the line of code", always}, self.at);
        with(field{"for", "what it waits for", always}, self.waits_for);
        with(field{"channel", "where", always}, self.channel);
        with(field{"since", "the frame", always}, self.since);
        with(field{"source_gone", "true if it waits in vain"}, self.source_gone);
    }
};

/// An outbox or inbox in which something waits.
struct waiting_box {
    std::string_view name;
    bool is_inbox = false;
    std::uint64_t payloads = 0;
    std::string_view at;
    std::uint64_t since = 0;
    bool was_called = false;

    template <class Self, class With>
    static void data(Self& self, With& with) {
        with(field{"name", "its name", always}, self.name);
        with(field{"inbox", "true for an inbox, which is taken in; else an outbox, which is delivered"}, self.is_inbox);
        with(field{"payloads", "how many wait", always}, self.payloads);
        with(field{"at", "the line of code that posted one of them"}, self.at);
        with(field{"since", "the frame of the latest call, or of the first payload", always}, self.since);
        with(field{"was_called", "true if it was delivered, or taken in, before"}, self.was_called);
    }
};

struct waiting_record {
    static constexpr std::string_view type = "waiting";
    static constexpr std::string_view says = "which sequences and payloads wait; every 256 frames, and at the end";
    std::vector<waiting_sequence> sequences;
    std::vector<waiting_box> boxes;

    template <class Self, class With>
    static void data(Self& self, With& with) {
        with(field{"sequences", "a list", always}, self.sequences);
        with(field{"boxes", "a list of the outboxes and inboxes in which something waits"}, self.boxes);
    }
};

/// A name in a list.
struct named {
    std::string_view name;

    template <class Self, class With>
    static void data(Self& self, With& with) {
        with(field{"name", "it", always}, self.name);
    }
};

struct needed_part {
    std::string_view name;
    bool changes = false;

    template <class Self, class With>
    static void data(Self& self, With& with) {
        with(field{"name", "of the other system", always}, self.name);
        with(field{"changes", "true if it changes that; else it reads it"}, self.changes);
    }
};

struct system_part {
    std::string_view name;
    std::vector<needed_part> needs;
    std::vector<named> teams;
    bool lent = false;
    bool updated = false;
    bool paused = false;
    std::uint32_t wave = 0;

    template <class Self, class With>
    static void data(Self& self, With& with) {
        with(field{"name", "its type", always}, self.name);
        with(field{"needs", "what it needs of others"}, self.needs);
        with(field{"teams", "that it was added with"}, self.teams);
        with(field{"lent", "true if it was lent"}, self.lent);
        with(field{"updated", "true if it has an update"}, self.updated);
        with(field{"paused", "true if it is"}, self.paused);
        with(field{"wave", "those of one wave have nothing in common"}, self.wave);
    }
};

struct systems_record {
    static constexpr std::string_view type = "systems";
    static constexpr std::string_view says = "the systems there are, in the order of their updates; as with waiting";
    std::vector<system_part> systems;

    template <class Self, class With>
    static void data(Self& self, With& with) {
        with(field{"systems", "a list", always}, self.systems);
    }
};

struct move_part {
    std::string_view from;
    std::string_view to;

    template <class Self, class With>
    static void data(Self& self, With& with) {
        with(field{"from", "the phase that is left", always}, self.from);
        with(field{"to", "the phase that is entered", always}, self.to);
    }
};

struct step_part : move_part {
    std::uint64_t frame = 0;
    std::uint64_t cause = 0;
    std::string_view at;

    template <class Self, class With>
    static void data(Self& self, With& with) {
        move_part::data(self, with);
        with(field{"frame", "when", always}, self.frame);
        with(field{"cause", "the event in whose handling it was made"}, self.cause);
        with(field{"at", "the line of code", always}, self.at);
    }
};

struct phases_part {
    std::string_view name;
    std::string_view now;
    std::vector<named> phases;
    std::vector<move_part> allowed;
    std::vector<step_part> history;
    std::uint64_t moves = 0;
    std::uint64_t refused = 0;

    template <class Self, class With>
    static void data(Self& self, With& with) {
        with(field{"name", "its name", always}, self.name);
        with(field{"now", "the phase that goes on", always}, self.now);
        with(field{"phases", "all of them", always}, self.phases);
        with(field{"allowed", "the moves that are", always}, self.allowed);
        with(field{"history", "the latest moves, 256 at most", always}, self.history);
        with(field{"moves", "how many there were", always}, self.moves);
        with(field{"refused", "how many were refused"}, self.refused);
    }
};

struct phases_record {
    static constexpr std::string_view type = "phases";
    static constexpr std::string_view says = "all sets of phases and their latest moves; as with waiting";
    std::vector<phases_part> sets;

    template <class Self, class With>
    static void data(Self& self, With& with) {
        with(field{"sets", "a list", always}, self.sets);
    }
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
