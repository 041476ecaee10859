// Records of what there is, apart from events: what waits, systems, phases. They are
// written every 256 frames and at the end, as a ledger has them in its books.
// SPDX-License-Identifier: MIT
#pragma once

#include "recording/record_parts.hpp"

#include <courier/books.hpp>

#include <string_view>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

template <>
struct description<waiting_books> {
    template <class Self, class With>
    static void data(Self& self, With& with) {
        with(field{"name", "the subscriber's", always}, self.subscriber);
        with(field{"started", "the line of code", always}, self.started);
        with(field{"at", "the line of code", always}, self.waits_at);
        with(field{"for", "what it waits for", always}, self.waits_for);
        with(field{"channel", "where", always}, self.channel);
        with(field{"since", "the frame", always}, self.since_frame);
        with(field{"source_gone", "true if what it waits for is gone"}, self.source_gone);
        with(field{"ended", "the frame in which its owner ended it, if it did"}, self.ended_frame);
    }
};

template <>
struct description<left_waiting_books> {
    template <class Self, class With>
    static void data(Self& self, With& with) {
        with(field{"name", "its name, if it has one"}, self.name);
        with(field{"kind", "inbox or timetable; else an outbox"}, self.kind);
        with(field{"payloads", "how many wait", always}, self.payloads);
        with(field{"at", "the line of code that posted one of them"}, self.posted);
        with(field{"since", "the frame of the latest call, or of the first payload", always}, self.since_frame);
        with(field{"was_called", "true if it was delivered, taken in or advanced before"}, self.was_called);
        with(field{"ended", "the frame in which it ended, if it did, and they with it"}, self.ended_frame);
    }
};

template <>
struct description<idle_refresher_books> {
    template <class Self, class With>
    static void data(Self& self, With& with) {
        with(field{"name", "the subscriber's", always}, self.subscriber);
        with(field{"at", "the line of code", always}, self.where);
    }
};

struct refreshers_record {
    static constexpr std::string_view type = "refreshers";
    static constexpr std::string_view says = "refreshers that read nothing when they ran; as with waiting";
    std::vector<idle_refresher_books> idle;

    template <class Self, class With>
    static void data(Self& self, With& with) {
        with(field{"idle", "a list", always}, self.idle);
    }
};

struct waiting_record {
    static constexpr std::string_view type = "waiting";
    static constexpr std::string_view says = "which sequences and payloads wait, or did when their owner ended; every "
                                             "256 frames, and at the end";
    std::vector<waiting_books> sequences;
    std::vector<left_waiting_books> boxes;

    template <class Self, class With>
    static void data(Self& self, With& with) {
        with(field{"sequences", "a list", always}, self.sequences);
        with(field{"boxes", "a list of the outboxes, inboxes and timetables in which something waits"}, self.boxes);
    }
};

template <>
struct description<system_books::need> {
    template <class Self, class With>
    static void data(Self& self, With& with) {
        with(field{"name", "of the other system", always}, self.name);
        with(field{"changes", "true if it changes that; else it reads it"}, self.changes);
    }
};

template <>
struct description<system_books> {
    template <class Self, class With>
    static void data(Self& self, With& with) {
        with(field{"name", "its type", always}, self.name);
        with(field{"needs", "what it needs of others"}, self.needs);
        with(field{"teams", "the names of the teams that it was added with"}, self.teams);
        with(field{"lent", "true if it was lent"}, self.lent);
        with(field{"updated", "true if it has an update"}, self.updated);
        with(field{"paused", "true if it is"}, self.paused);
        with(field{"wave", "those of one wave can run at the same time"}, self.wave);
        with(field{"ended", "true if it has ended, and was so"}, self.ended);
    }
};

struct systems_record {
    static constexpr std::string_view type = "systems";
    static constexpr std::string_view says = "the systems, in the order of their updates; as with waiting";
    std::vector<system_books> systems;

    template <class Self, class With>
    static void data(Self& self, With& with) {
        with(field{"systems", "a list", always}, self.systems);
    }
};

template <>
struct description<phases_books::move> {
    template <class Self, class With>
    static void data(Self& self, With& with) {
        with(field{"from", "the phase that is left", always}, self.from);
        with(field{"to", "the phase that is entered", always}, self.to);
    }
};

template <>
struct description<phases_books::step> {
    template <class Self, class With>
    static void data(Self& self, With& with) {
        with(field{"from", "the phase that is left", always}, self.from);
        with(field{"to", "the phase that is entered", always}, self.to);
        with(field{"frame", "when", always}, self.frame);
        with(field{"cause", "the event in whose handling it was made"}, self.cause);
        with(field{"at", "the line of code", always}, self.where);
    }
};

template <>
struct description<phases_books> {
    template <class Self, class With>
    static void data(Self& self, With& with) {
        with(field{"name", "its name", always}, self.name);
        with(field{"now", "the phase that goes on", always}, self.now);
        with(field{"phases", "the names of all of them", always}, self.phases);
        with(field{"allowed", "the moves that are", always}, self.allowed);
        with(field{"history", "the latest moves, 256 at most", always}, self.history);
        with(field{"moves", "how many there were", always}, self.moves);
        with(field{"refused", "how many were refused"}, self.refused);
        with(field{"ended", "true if they have ended, and were so"}, self.ended);
    }
};

struct phases_record {
    static constexpr std::string_view type = "phases";
    static constexpr std::string_view says = "all sets of phases and their latest moves; as with waiting";
    std::vector<phases_books> sets;

    template <class Self, class With>
    static void data(Self& self, With& with) {
        with(field{"sets", "a list", always}, self.sets);
    }
};

template <>
struct description<circle_books> {
    template <class Self, class With>
    static void data(Self& self, With& with) {
        with(field{"channels", "from the first one back to itself", always}, self.channels);
        with(field{"at", "the line of code that closes it", always}, self.where);
        with(field{"times", "how often", always}, self.times);
        with(field{"longest", "how often one chain went round", always}, self.longest);
        with(field{"since", "the frame of the first", always}, self.first_frame);
    }
};

struct circles_record {
    static constexpr std::string_view type = "circles";
    static constexpr std::string_view says = "chains of causes that come back to their channel; as with waiting";
    std::vector<circle_books> circles;

    template <class Self, class With>
    static void data(Self& self, With& with) {
        with(field{"circles", "a list", always}, self.circles);
    }
};

template <>
struct description<order_books> {
    template <class Self, class With>
    static void data(Self& self, With& with) {
        with(field{"channel", "on which both are subscribed", always}, self.channel);
        with(field{"first", "the line of code of the one that comes first", always}, self.first);
        with(field{"second", "that of the other one", always}, self.second);
        with(field{"first_name", "the first one's subscriber"}, self.first_name);
        with(field{"second_name", "the other one's"}, self.second_name);
        with(field{"how", "stops, ends or both_publish", always}, self.how);
        with(field{"on", "the channel on which both publish"}, self.on);
        with(field{"times", "how often", always}, self.times);
        with(field{"since", "the frame of the first", always}, self.first_frame);
    }
};

struct orders_record {
    static constexpr std::string_view type = "orders";
    static constexpr std::string_view says = "pairs of handlers of one stage whose order mattered; as with waiting";
    std::vector<order_books> orders;

    template <class Self, class With>
    static void data(Self& self, With& with) {
        with(field{"orders", "a list", always}, self.orders);
    }
};

template <>
struct description<accepted_finding> {
    template <class Self, class With>
    static void data(Self& self, With& with) {
        with(field{"code", "such as courier.audit.every-frame", always}, self.code);
        with(field{"channel", "on which; else on any"}, self.channel);
        with(field{"party", "about whom; else about any"}, self.party);
        with(field{"reason", "why it is as it should be", always}, self.reason);
        with(field{"at", "the line of code", always}, self.where);
    }
};

struct accepted_record {
    static constexpr std::string_view type = "accepted";
    static constexpr std::string_view says = "findings that are as they should be; as with waiting";
    std::vector<accepted_finding> findings;

    template <class Self, class With>
    static void data(Self& self, With& with) {
        with(field{"findings", "a list", always}, self.findings);
    }
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
