// A recorded run, in memory.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/books.hpp>
#include <courier/config.hpp>
#include <courier/handler_times.hpp>
#include <courier/turn.hpp>

#include <algorithm>
#include <cstddef>
#include <cstdint>
#include <deque>
#include <map>
#include <optional>
#include <string>
#include <string_view>
#include <unordered_map>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN

/// Text that is stored once, by number. 0 is the empty text.
class text_table {
public:
    text_table() { number_of(""); }
    /// Its number; a new one for a text that is not there yet.
    std::uint32_t number_of(std::string_view text);
    /// UINT32_MAX when it is not there.
    [[nodiscard]] std::uint32_t find(std::string_view text) const;
    /// The text of a number.
    [[nodiscard]] const std::string& operator[](std::uint32_t number) const noexcept { return texts_[number]; }
    /// How many texts there are.
    [[nodiscard]] std::uint32_t size() const noexcept { return static_cast<std::uint32_t>(texts_.size()); }

private:
    std::deque<std::string> texts_;
    std::unordered_map<std::string_view, std::uint32_t> numbers_;
};

/// What a subscription missed.
struct recorded_miss {
    std::uint32_t subscription;
    turn why;
};

/// What a handler took, in one event.
struct recorded_time {
    std::uint32_t subscription;
    std::uint32_t ns;
};

/// An event, or a post. Numbers of text are those of `run::texts`.
struct recorded_event {
    std::uint64_t id = 0;
    std::uint64_t cause = 0; ///< 0: none
    std::uint32_t frame = 0;
    std::uint32_t channel = 0; ///< of `run::channels`
    std::uint32_t at = 0;      ///< text: the line of code
    std::uint32_t by = 0;      ///< text: the publisher's name
    std::uint32_t maker = 0;   ///< text: the publisher, else the subscriber in whose handler it was made, else the file
    std::uint32_t to = 0;      ///< text: the address
    std::uint32_t outbox = 0;  ///< text; of posts
    std::uint32_t in_handler = 0; ///< the subscription whose handler made it; 0: none
    std::uint32_t stopped_by = 0;
    std::uint32_t first_heard = 0; ///< of `run::heard`
    std::uint32_t heard = 0;
    std::uint32_t first_missed = 0; ///< of `run::missed`
    std::uint32_t missed = 0;
    std::uint32_t failed = 0;       ///< of these, handlers that threw
    std::uint32_t first_took = 0;   ///< of `run::took`
    std::uint32_t timed = 0;        ///< handlers that were measured
    std::uint64_t payload = 0;      ///< where it begins in `run::payloads`
    std::uint32_t payload_size = 0; ///< 0: not known
    bool is_post = false;
    bool combined = false;    ///< of posts
    bool turned_away = false; ///< of posts
    bool stopped = false;
    bool outside = false;
    bool retained = false;
    bool refused = false;
    bool vacant = false;
    bool is_cut = false; ///< who heard it, and its payload, were left out: they were too long for a line

    /// How many handlers were called.
    [[nodiscard]] std::uint32_t deliveries() const noexcept { return heard + failed; }
    /// Whether nobody was there to hear it.
    [[nodiscard]] bool was_unheard() const noexcept { return deliveries() == 0 && !is_cut; }
};

/// What a program is called by others, through a ferry.
struct recorded_process {
    std::string process;
    std::string run; ///< which of its runs it is
};

/// Where an event came from that was made in another program.
struct recorded_origin {
    std::string process;
    std::string run;
    std::uint64_t event = 0; ///< its number in the recording of that run; 0: not known
};

/// With its counts in the whole run.
struct recorded_channel : channel_books {
    std::uint32_t number = 0;        ///< of the recording; channels of one name and different payloads have two
    std::vector<std::uint32_t> live; ///< subscriptions, at the end
    std::uint64_t in_frame = 0;      ///< publishes in its last frame
    std::uint64_t newest = 0;        ///< the newest event that was published on it; 0: none
};

/// A line of code that publishes or posts on a channel.
struct recorded_publisher {
    std::uint32_t channel = 0; ///< of `run::channels`
    std::uint32_t at = 0;      ///< text
    std::uint32_t by = 0;      ///< text
    publisher_books sums;
};

/// From a frame on, until another one.
struct recorded_pause {
    std::uint32_t from;
    std::uint32_t until; ///< UINT32_MAX: to the end
};

/// A subscription, from its beginning to its end.
struct recorded_subscription {
    std::uint32_t number = 0;
    std::uint32_t channel = 0;
    std::uint32_t party = 0; ///< 0: none
    std::uint32_t who = 0;   ///< text: the party's name, or where it subscribed
    std::string name;        ///< of the party
    std::string at;
    std::string stage;
    std::string to; ///< the address; empty: everything
    std::uint32_t handler = 0;
    std::uint32_t since = 0;            ///< frame
    std::uint32_t until = UINT32_MAX;   ///< frame; UINT32_MAX: still live
    std::uint64_t after = 0;            ///< the newest event when it came
    std::uint64_t published_before = 0; ///< on its channel
    bool closed = false;                ///< ended since its channel did
    std::vector<recorded_pause> pauses;
    turn_counts turns;
    std::optional<handler_time_counts> took; ///< where measured
};

/// A subscriber with a name.
struct recorded_party {
    std::string name;
    std::uint32_t live = 0;
    std::uint32_t lost = 0;
    std::uint32_t last_lost = 0; ///< the subscription
    std::uint32_t lost_frame = 0;
    bool ended = false;
};

/// Everything that a recording says.
struct run {
    std::string file;
    std::string source; ///< the ledger's name
    std::map<std::string, std::string> facts;
    std::vector<recorded_channel> channels;
    std::vector<recorded_publisher> publishers;
    std::vector<recorded_event> events;               ///< by id
    std::vector<recorded_process> processes;          ///< what it is called by others
    std::map<std::uint64_t, recorded_origin> origins; ///< by event
    std::vector<std::uint32_t> heard;
    std::vector<recorded_miss> missed;
    std::vector<recorded_time> took;
    std::string payloads; ///< JSON, one after the other
    text_table texts;
    std::map<std::uint32_t, recorded_subscription> subscriptions; ///< by number
    std::map<std::uint32_t, recorded_party> parties;
    // What there was apart from events, as of the newest line of each kind.
    std::vector<waiting_books> waiting;
    std::vector<left_waiting_books> left_waiting;
    std::vector<idle_refresher_books> idle_refreshers;
    std::vector<system_books> systems;
    std::vector<phases_books> phases;
    std::vector<circle_books> circles;
    std::vector<order_books> orders;
    std::vector<accepted_finding> accepted;
    /// How many frames were over when these were recorded last. Behind it they may have changed,
    /// if the recording was not finished.
    std::uint32_t state_frame = 0;
    std::uint32_t first_frame = 0; ///< the first one that is known; above 0 for a reader that joined late, or forgot
    std::vector<std::int64_t> frame_times; ///< game time at the end of each from there on, ns
    std::uint64_t forgotten = 0;           ///< events that were dropped, as there was no room for all
    std::uint64_t skipped = 0;             ///< events that were left out
    std::uint64_t lines = 0;
    std::uint64_t unknown_lines = 0; ///< of kinds that a later version has; passed over
    bool finished = false;           ///< the recorder came to its end
    bool cut = false;                ///< the last line is not whole; all before it was read

    /// How many are over.
    [[nodiscard]] std::uint32_t frames() const noexcept {
        return first_frame + static_cast<std::uint32_t>(frame_times.size());
    }
    /// Game time when a frame began, ns; for one that has not begun, when the latest ended. Where
    /// the frames before `first_frame` are not known, the earliest time that is.
    [[nodiscard]] std::int64_t begin_of(std::uint32_t frame) const noexcept {
        if (frame_times.empty() || (frame <= first_frame && first_frame == 0)) {
            return 0;
        }
        const std::size_t ended = frame > first_frame ? frame - first_frame : 1;
        return frame_times[std::min(ended, frame_times.size()) - 1];
    }
    /// Null when there is no such event.
    [[nodiscard]] const recorded_event* find(std::uint64_t id) const noexcept;
    /// UINT32_MAX when there is none of that name.
    [[nodiscard]] std::uint32_t channel_named(std::string_view name) const noexcept;
    /// Its payload as JSON; empty when none was recorded.
    [[nodiscard]] std::string_view payload_of(const recorded_event& event) const noexcept {
        return std::string_view(payloads).substr(event.payload, event.payload_size);
    }
    /// Who published it: a publisher, or the handler it was made in.
    [[nodiscard]] const std::string& maker_of(const recorded_event& event) const noexcept { return texts[event.maker]; }
    /// The subscriber's name, or where it subscribed; "?" when it is not known.
    [[nodiscard]] const std::string& name_of(std::uint32_t subscription) const noexcept;
    /// "a whole recording of 1200 events", or its defect.
    [[nodiscard]] std::string state() const;
};

/// The books that a ledger would have kept; for `audit()`.
[[nodiscard]] books books_of(const run& of);

WIRED_COURIER_NAMESPACE_END
