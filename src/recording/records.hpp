// Every kind of record, described once: how it is packed and unpacked, written
// as a line, read from one, and listed in docs/recordings.md all follow from
// the functions `attributes` and `data` here.
// SPDX-License-Identifier: MIT
#pragma once

#include "data/schema.hpp"
#include "recording/record_parts.hpp"
#include "recording/state_records.hpp"

#include <cstddef>
#include <cstdint>
#include <optional>
#include <string_view>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

// `type` is the end of the line's type; a record without one is told by the
// packer to the writer only. Members are visited in the order of their packing
// and of their writing. What comes from a visit goes by reference, so that the
// same function reads and writes.

struct recording_record {
    static constexpr std::string_view type = "recording";
    static constexpr std::string_view says = "the first line";
    std::string_view name; ///< the ledger's; as a URI reference, every line's source
    std::uint32_t format = recording_format;
    fact_list facts;

    template <class Self, class With>
    static void attributes(Self& self, With& with) {
        with(from_source{}, self.name);
    }
    template <class Self, class With>
    static void data(Self& self, With& with) {
        with(field{"format", "1", always}, self.format);
        with(field{"facts", "what the program says of the run, by name", always}, self.facts);
    }
};

struct channel_record {
    static constexpr std::string_view type = "channel";
    static constexpr std::string_view says = "a channel was made, or was there";
    new_channel is;
    std::string_view payload;
    std::string_view hub;
    bool is_query = false;
    bool is_owned = false;

    template <class Self, class With>
    static void attributes(Self& self, With& with) {
        with(self.is);
    }
    template <class Self, class With>
    static void data(Self& self, With& with) {
        with(field{"payload", "its type", always}, self.payload);
        with(field{"hub", "the hub's name"}, self.hub);
        with(field{"query", "true for a query"}, self.is_query);
        with(field{"owned", "true for timed calls, sequences, refreshers and pipelines: its subscriptions are these"},
             self.is_owned);
    }
};

/// A line about one channel.
struct channel_line {
    channel_link on;

    template <class Self, class With>
    static void attributes(Self& self, With& with) {
        with(self.on);
    }
};

struct closed_record : channel_line {
    static constexpr std::string_view type = "closed";
    static constexpr std::string_view says = "a channel has ended";
};

/// A line about one subscription.
struct subscription_line : channel_line {
    std::uint32_t subscription = 0;

    template <class Self, class With>
    static void data(Self& self, With& with) {
        with(field{"subscription", "its number", always}, self.subscription);
    }
};

struct subscribed_record : subscription_line {
    static constexpr std::string_view type = "subscribed";
    static constexpr std::string_view says = "a subscription was made, or was there";
    std::uint32_t party = 0;
    std::string_view name;
    std::string_view at;
    std::string_view stage;
    std::string_view to;
    bool is_paused = false;
    std::uint32_t handler = 0;

    template <class Self, class With>
    static void data(Self& self, With& with) {
        subscription_line::data(self, with);
        with(field{"party", "the subscriber's number"}, self.party);
        with(field{"name", "the subscriber's name"}, self.name);
        with(field{"at", "the line of code", always}, self.at);
        with(field{"stage", "the stage", always}, self.stage);
        with(field{"to", "the address"}, self.to);
        with(field{"paused", "true if it is"}, self.is_paused);
        with(field{"handler", "equal for equal handlers"}, self.handler);
    }
};

struct ended_record : subscription_line {
    static constexpr std::string_view type = "ended";
    static constexpr std::string_view says = "a subscription has ended";
    bool channel_closed = false;

    template <class Self, class With>
    static void data(Self& self, With& with) {
        subscription_line::data(self, with);
        with(field{"closed", "true if it ended with its channel"}, self.channel_closed);
    }
};

struct paused_record : subscription_line {
    static constexpr std::string_view type = "paused";
    static constexpr std::string_view says = "a subscription is paused";
};

struct resumed_record : subscription_line {
    static constexpr std::string_view type = "resumed";
    static constexpr std::string_view says = "it is no longer";
};

struct party_ended_record {
    static constexpr std::string_view type = "party.ended";
    static constexpr std::string_view says = "a subscriber has ended";
    std::uint32_t party = 0;

    template <class Self, class With>
    static void data(Self& self, With& with) {
        with(field{"party", "its number", always}, self.party);
    }
};

/// What events and posts have in common.
struct made_record {
    std::uint64_t id = 0;
    std::uint64_t cause = 0;
    channel_link on;
    code_place where;
    std::uint32_t in_handler = 0;

    template <class Self, class With>
    static void attributes(Self& self, With& with) {
        with(own_id{}, self.id);
        with(self.on);
        with(of_event{"cause"}, self.cause);
    }
    template <class Self, class With>
    static void data(Self& self, With& with) {
        with(self.where);
        with(field{"in_handler", "the subscription whose handler made it"}, self.in_handler);
    }
};

struct event_record : made_record {
    static constexpr std::string_view type = "event";
    static constexpr std::string_view says = "a payload was published";
    std::string_view to;
    bool outside = false;
    std::string_view from;
    std::string_view from_run;
    std::uint64_t from_event = 0;
    bool retained = false;
    bool refused = false;
    bool vacant = false;
    bool closed = false;
    std::optional<std::uint32_t> stopped;
    turn_list turns;
    packed_payload payload;
    bytes_left_out left_out;

    template <class Self, class With>
    static void data(Self& self, With& with) {
        made_record::data(self, with);
        with(field{"to", "the address"}, self.to);
        with(field{"outside", "true if it came from outside: input, or another thread's message"}, self.outside);
        with(field{"from", "the process that it came from, through a ferry (MQTT bridge)"}, self.from);
        with(field{"from_run", "that process's run"}, self.from_run);
        with(field{"from_event", "the event there, its number in that run's recording"}, self.from_event);
        with(field{"retained", "true for a retained payload, served to a late subscriber"}, self.retained);
        with(field{"refused", "true if it was refused: too deep, or on a foreign thread"}, self.refused);
        with(field{"vacant", "true if nobody was at its address"}, self.vacant);
        with(field{"closed", "true if its channel ended meanwhile"}, self.closed);
        with(field{"stopped", "the subscription whose verdict ended it"}, self.stopped);
        with(self.turns);
        with(self.payload);
        with(self.left_out);
    }
};

struct post_record : made_record {
    static constexpr std::string_view type = "post";
    static constexpr std::string_view says = "a payload was posted, to be delivered by another event";
    std::string_view outbox;
    std::string_view to;
    bool combined = false;
    bool turned_away = false;
    bool outside = false;
    packed_payload payload;
    bytes_left_out left_out;

    template <class Self, class With>
    static void data(Self& self, With& with) {
        made_record::data(self, with);
        with(field{"outbox", "its name", always}, self.outbox);
        with(field{"to", "the address"}, self.to);
        with(field{"combined", "true if it became part of one that waited"}, self.combined);
        with(field{"turned_away", "true if there was no room"}, self.turned_away);
        with(field{"outside", "as with an event"}, self.outside);
        with(self.payload);
        with(self.left_out);
    }
};

/// The program, as other processes know it.
struct process_record {
    static constexpr std::string_view type = "process";
    static constexpr std::string_view says = "what events that left this program say of where they come from";
    std::string_view process;
    std::string_view run;

    template <class Self, class With>
    static void data(Self& self, With& with) {
        with(field{"process", "its name", always}, self.process);
        with(field{"run", "which of its runs this is", always}, self.run);
    }
};

struct frame_record {
    static constexpr std::string_view type = "frame";
    static constexpr std::string_view says = "a frame is over";
    std::int64_t time = 0; ///< ns

    template <class Self, class With>
    static void attributes(Self& self, With& with) {
        with(as_duration{"gametime"}, self.time);
    }
};

/// A number of events.
struct events_record {
    std::uint64_t events = 0;

    template <class Self, class With>
    static void data(Self& self, With& with) {
        with(field{"events", "how many", always}, self.events);
    }
};
struct skipped_record : events_record {
    static constexpr std::string_view type = "skipped";
    static constexpr std::string_view says = "events were left out, as the disk was too slow or memory too small";
};
struct finished_record : events_record {
    static constexpr std::string_view type = "finished";
    static constexpr std::string_view says = "the recorder came to its end";
};

/// A line of code that publishes.
struct site_record {
    static constexpr std::string_view type = {};
    std::uint32_t number = 0;
    std::string_view at;
    std::string_view by;

    template <class Self, class With>
    static void data(Self& self, With& with) {
        with(field{"number"}, self.number);
        with(field{"at"}, self.at);
        with(field{"by"}, self.by);
    }
};

struct schema_record {
    static constexpr std::string_view type = {};
    std::uint32_t number = 0;
    std::vector<schema_field> fields;

    template <class Self, class With>
    static void data(Self& self, With& with) {
        with(field{"number"}, self.number);
        with(field{"fields"}, self.fields);
    }
};

/// In the order in which docs/recordings.md tells them.
using all_records =
    record_kinds<recording_record, channel_record, closed_record, subscribed_record, ended_record, paused_record,
                 resumed_record, party_ended_record, event_record, post_record, process_record, frame_record,
                 waiting_record, systems_record, phases_record, refreshers_record, circles_record, orders_record,
                 accepted_record, skipped_record, finished_record, site_record, schema_record>;

} // namespace detail
WIRED_COURIER_NAMESPACE_END
