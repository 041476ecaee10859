// What a ledger knows, as plain values: a copy that stays when the ledger, or
// the run that it was recorded from, is over.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/handler_times.hpp>
#include <courier/turn.hpp>
#include <courier/waiting_kind.hpp>

#include <array>
#include <cstdint>
#include <optional>
#include <string>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN

/// A line of code.
struct code_line {
    std::string file;       ///< as the compiler was given it; empty: not known
    std::uint32_t line = 0; ///< 0: it has none, such as what comes from another process

    /// As compilers write it: "demo/horn.cpp:21".
    [[nodiscard]] std::string text() const {
        return file.empty() ? "?" : line == 0 ? file : file + ":" + std::to_string(line);
    }
    friend bool operator==(const code_line&, const code_line&) = default;
};

/// How often somebody's turn came, and what became of it.
struct turn_counts {
    std::array<std::uint64_t, turn_kinds> of{};

    /// How often that was the outcome.
    [[nodiscard]] std::uint64_t operator[](turn what) const noexcept { return of[static_cast<std::size_t>(what)]; }
    /// How often that was the outcome.
    [[nodiscard]] std::uint64_t& operator[](turn what) noexcept { return of[static_cast<std::size_t>(what)]; }
    /// Adds the counts of another one.
    void add(const turn_counts& other) noexcept {
        for (std::size_t i = 0; i < turn_kinds; ++i) {
            of[i] += other.of[i];
        }
    }
};

/// All channels of one name and payload.
struct channel_books {
    std::string name;
    std::string payload; ///< the type
    std::string hub;     ///< empty for a local channel
    bool is_query = false;
    /// No channel: its "subscriptions" are what subscribers own besides those. There are
    /// "timed calls", "sequences", "refreshers" and "pipelines".
    bool is_owned = false;
    std::uint32_t open = 0; ///< channels of that name
    std::uint64_t published = 0;
    std::uint64_t deliveries = 0;
    std::uint64_t unheard = 0; ///< served nobody
    std::uint64_t refused = 0; ///< nested too deeply
    std::uint64_t stopped = 0; ///< by a verdict
    std::uint64_t vacant = 0;  ///< for an address at which nobody was
    std::uint64_t posted = 0;
    std::uint64_t combined = 0;    ///< posts that went into one that waited already
    std::uint64_t turned_away = 0; ///< posts, at the bound of an outbox
    std::uint64_t first_frame = 0; ///< with a publish
    std::uint64_t last_frame = 0;
    std::uint64_t frames = 0;       ///< with a publish
    std::uint64_t max_in_frame = 0; ///< publishes
};

/// A line of code that publishes or posts on a channel.
struct publisher_books {
    std::string channel;
    std::string name; ///< of the publisher; empty when it has none
    code_line where;
    std::uint64_t published = 0;
    std::uint64_t unheard = 0;
    std::uint64_t vacant = 0;
    std::uint64_t first_frame = 0;
    std::uint64_t last_frame = 0;
    std::uint64_t frames = 0; ///< with a publish
};

/// A line of code that subscribes to a channel, with all that it has made.
struct subscribe_site_books {
    std::string channel;
    std::string subscriber; ///< of the first one; empty when it has none
    code_line where;
    std::uint64_t made = 0;
    std::uint64_t live = 0;
    std::uint64_t first_frame = 0;
    turn_counts turns;
    handler_times times;
    /// How many were live at the end of each sampled frame.
    std::vector<std::uint64_t> past;
    std::uint64_t past_every = 1; ///< frames
};

/// A live subscription.
struct subscription_books {
    std::uint32_t number = 0; ///< from 1 on, in the order of subscription
    std::string channel;
    std::string subscriber; ///< empty when it has none
    code_line where;
    std::string stage;
    std::string address; ///< what it is subscribed at; empty: everything
    bool paused = false;
    std::uint64_t since_frame = 0;
    std::int64_t since_time = 0;       ///< game time, ns
    std::uint64_t published_since = 0; ///< on its channel
    std::uint64_t handler = 0;         ///< equal only for the same handler; 0: not known
    turn_counts turns;
    handler_times times;
};

/// A subscriber some of whose channels have ended.
struct party_books {
    std::string name;
    std::uint32_t live = 0;   ///< subscriptions
    std::uint32_t lost = 0;   ///< subscriptions whose channel ended
    std::string last_channel; ///< of these, the last
    code_line last_where;     ///< where that was subscribed
    std::uint64_t last_frame = 0;
};

/// A sequence that waits.
struct waiting_books {
    std::string subscriber;
    code_line started;
    code_line waits_at;
    std::string waits_for;    ///< for people
    std::string channel;      ///< that it waits for, when it is one; else empty
    bool source_gone = false; ///< what it waits for is gone
    std::uint64_t since_frame = 0;
    std::optional<std::uint64_t> ended_frame; ///< in which its owner ended it; empty: it waits
};

/// An outbox, inbox or timetable in which something waits.
struct left_waiting_books {
    std::string name; ///< timetables have none
    waiting_kind kind = waiting_kind::outbox;
    std::uint64_t payloads = 0;               ///< that wait
    code_line posted;                         ///< one of them; empty: not known
    std::uint64_t since_frame = 0;            ///< in which they began to, or it was last delivered or taken in
    bool was_called = false;                  ///< it was delivered, taken in, or advanced, before
    std::optional<std::uint64_t> ended_frame; ///< in which it ended, and they with it; empty: it is there
};

/// A refresher that read nothing when it ran; see `subscriber::keep_current()`.
struct idle_refresher_books {
    std::string subscriber; ///< empty when it has none
    code_line where;
};

/// A system; see courier/systems.hpp.
struct system_books {
    /// Another system that it reads or changes.
    struct need {
        std::string name;
        bool changes = false; ///< or only reads it
    };
    std::string name;
    std::vector<need> needs;
    std::vector<std::string> teams;
    bool lent = false;
    bool updated = false; ///< it has an update
    bool paused = false;
    std::uint32_t wave = 0; ///< systems of one wave have nothing in common
    bool ended = false;     ///< and this is what it was
};

/// One set of phases; see courier/phases.hpp.
struct phases_books {
    /// A move that is allowed.
    struct move {
        std::string from;
        std::string to;
    };
    /// A move that was made.
    struct step {
        std::string from;
        std::string to;
        std::uint64_t frame = 0;
        std::uint64_t cause = 0; ///< the event in whose handling it was made; 0: none
        code_line where;
    };
    std::string name;
    std::string now;
    std::vector<std::string> phases;
    std::vector<move> allowed;
    std::vector<step> history; ///< the latest moves, the oldest first
    std::uint64_t moves = 0;   ///< all
    std::uint64_t refused = 0;
    bool ended = false; ///< and this is what they were
};

/// A chain of causes that comes back to its channel.
struct circle_books {
    std::vector<std::string> channels; ///< from the first back to itself
    code_line where;                   ///< of the publish that closes it
    std::uint64_t times = 0;
    std::uint64_t longest = 0; ///< how often one chain went round
    std::uint64_t first_frame = 0;
};

/// Why the order of two subscriptions of one stage mattered.
enum class order_matter : std::uint8_t {
    stops,        ///< the first one's verdict kept the second from being served
    ends,         ///< the first one ended or paused the second
    both_publish, ///< both published or posted on one channel
};

/// Two handlers of which it matters which one runs first.
struct order_books {
    std::string channel;
    code_line first;
    code_line second;
    std::string first_name;
    std::string second_name;
    order_matter how = order_matter::stops;
    std::string on; ///< of `both_publish`: the channel
    std::uint64_t times = 0;
    std::uint64_t first_frame = 0;
};

/// A finding that is as it should be; see courier/accept_finding.hpp.
struct accepted_finding {
    std::string code;    ///< as `id_of()` has it: "courier.audit.every-frame"
    std::string channel; ///< empty: on any
    std::string party;   ///< empty: about any
    std::string reason;
    code_line where = {};
};

/// Everything.
struct books {
    /// Notes without memory for them: keeping books never
    /// keeps a publish from being served. Above 0 they are incomplete.
    std::uint64_t left_out = 0;
    std::uint64_t frames = 0;
    std::int64_t time = 0; ///< game time, ns
    std::uint64_t events = 0;
    std::vector<channel_books> channels;
    std::vector<publisher_books> publishers;
    std::vector<subscribe_site_books> subscribes;
    std::vector<subscription_books> subscriptions;
    std::vector<party_books> parties;
    std::vector<waiting_books> waiting;
    std::vector<left_waiting_books> left_waiting;
    std::vector<idle_refresher_books> idle_refreshers;
    std::vector<system_books> systems; ///< in the order of their updates
    std::vector<phases_books> phases;
    std::vector<circle_books> circles;
    std::vector<order_books> orders;
    std::vector<accepted_finding> accepted;
};

WIRED_COURIER_NAMESPACE_END
