// A ledger's books while they are kept.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/books.hpp>
#include <courier/detail/delivery/channel_core.hpp>
#include <courier/detail/delivery/last_reports.hpp>
#include <courier/detail/delivery/oversight.hpp>
#include <courier/detail/ledger/event_sink.hpp>
#include <courier/handler_times.hpp>

#include <array>
#include <cstddef>
#include <cstdint>
#include <deque>
#include <memory>
#include <source_location>
#include <string>
#include <string_view>
#include <unordered_map>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// One live subscription on a channel with an account.
struct subscription_note {
    std::uint32_t number = 0;
    std::uint32_t party = 0; ///< the subscriber's number; 0 for none
    std::uint32_t site = 0;
    slot* of = nullptr;
    std::uint64_t joined = 0;           ///< walks of its channel before it came
    std::uint64_t batches_joined = 0;   ///< of these, those of single payloads of a batch
    std::uint64_t extra = 0;            ///< turns apart from those walks
    std::uint64_t published_before = 0; ///< on its channel's account
    std::uint64_t since_frame = 0;
    std::int64_t since_time = 0;
    turn_counts missed;
    std::unique_ptr<handler_time_counts> times;
    const std::string* name = nullptr; ///< of the party it belongs to in the end
    std::string address;

    [[nodiscard]] turn_counts turns() const noexcept;
};

/// A line of code that publishes or subscribes on a channel.
struct code_site {
    const char* file_key; ///< compared only; may dangle once a module is gone
    std::uint32_t channel;
    code_line where;
    std::string who; ///< the publisher's name, or that of the first subscriber
    std::uint64_t count = 0;
    std::uint64_t first_frame = 0;
    std::uint64_t last_frame = 0;
    std::uint64_t frames = 0;
    std::uint64_t unheard = 0;
    std::uint64_t vacant = 0;
    std::uint64_t live = 0;
    turn_counts turns;         ///< of those that have ended
    handler_time_counts times; ///< the same
    std::vector<std::uint64_t> past;
};

/// The books of all channels of one name and payload.
struct account {
    ledger_core* ledger = nullptr;
    std::uint32_t number = 0;
    bool is_internal = false;
    std::uint64_t frame = UINT64_MAX; ///< of the newest publish
    std::uint64_t before_frame = 0;   ///< publishes before that frame
    std::uint32_t until_timed = 0;
    bool has_slow = false; ///< worth timing each time
    std::uint32_t newest_site = UINT32_MAX;
    code_site* site = nullptr;   ///< the same
    const void* site_key = this; ///< the place in the code that it is, of one without a name; this: none
    std::uint64_t plain_in = 0;  ///< the ledger's epoch in which a publish has nothing else to look at
    std::uint64_t newest_event = 0;
    std::vector<std::uint32_t> sites;      ///< that publish
    std::vector<std::uint32_t> subscribes; ///< that subscribe
    channel_books sums;
};

/// An event that is remembered for a while.
struct event_memory {
    std::uint64_t id = 0;
    std::uint64_t cause = 0;
    std::uint64_t ancestors = 0; ///< channels that led to it, one bit each, several to a bit
    std::uint64_t frame = 0;
    std::uint32_t channel = 0;
    std::uint32_t site = 0;
    std::uint32_t handling = 0;
    bool is_post = false;
};

struct party_note {
    std::uint32_t number = 0;
    bool ended = false;
    party_books sums;
};

/// Pairs of sites in which order mattered, and circles, each once.
/// A handler by where it was subscribed, and for which party, which may have ended.
struct noted_handler {
    std::uint32_t site;
    std::uint32_t party;
};
struct order_note {
    std::uint32_t channel;
    std::uint32_t first;
    std::uint32_t second;
    order_matter how;
    std::uint32_t on;
    std::string first_name; ///< of the two who were met first; a line may subscribe for many
    std::string second_name;
    std::uint64_t times = 0;
    std::uint64_t first_frame = 0;
};
struct circle_note {
    std::vector<std::uint32_t> channels;
    std::uint32_t site = 0;
    std::uint64_t times = 0;
    std::uint64_t longest = 1;
    std::uint64_t first_frame = 0;
};

/// Somebody who takes what is told; null when it has left in the middle of that.
struct taker {
    event_sink* to;
    std::uint64_t serial; ///< tells it from a later one in the same place
};
/// One that has taken the beginning of a publish in flight.
struct begun_event {
    taker by;
    std::size_t kept; ///< what `begin()` returned
};

class plain_noted;

struct ledger_core {
    ledger_core();
    ledger_core(const ledger_core&) = delete;
    ledger_core& operator=(const ledger_core&) = delete;
    ~ledger_core();

    std::uint32_t refs = 1; ///< the ledger, and publishes in flight once it is over
    std::uint32_t serial = 0;
    std::uint32_t thread = 0;
    bool everything = false; ///< takes channels as they are made
    bool over = false;
    std::string name;
    std::uint32_t time_every = 256;
    std::uint64_t order_seed = 0;
    std::uint64_t newest_id = 0;
    std::uint64_t left_out = 0; ///< notes for which there was no memory
    std::uint32_t newest_subscription = 0;
    std::uint32_t newest_party = 0;
    std::uint64_t frame = 0;
    std::int64_t time = 0;
    std::uint64_t past_every = 1;
    std::vector<taker> takers; ///< in the order of their coming
    std::uint64_t newest_taker = 0;
    std::uint32_t telling = 0; ///< above 0 while `takers` is walked
    std::uint64_t epoch = 1;   ///< rises with each frame, and when what is looked at changes
    std::vector<std::unique_ptr<account>> accounts;
    std::unordered_map<std::string, std::uint32_t> account_numbers; ///< by name and payload
    std::deque<code_site> publish_sites;                            ///< stay where they are
    std::vector<code_site> subscribe_sites;
    std::unordered_map<std::uint32_t, std::unique_ptr<subscription_note>> notes; ///< by number
    std::unordered_map<std::uint32_t, party_note> parties;                       ///< that are there
    last_reports last; ///< of owners on this thread that have ended
    std::vector<circle_note> circles;
    std::vector<order_note> orders;
    std::vector<accepted_finding> accepted;
    std::vector<event_memory> memory; ///< a power of two of them
    event_memory* ring = nullptr;     ///< the same, at hand
    std::uint64_t ring_mask = 0;
    std::vector<std::uint32_t> site_of; ///< by subscription number, in a ring of a power of two
    std::vector<turn_note> turns;       ///< of publishes in flight, outer ones first
    std::vector<begun_event> begun;     ///< the same
    std::unique_ptr<plain_noted> plain; ///< of the publish with nothing special to note, if one is in flight

    [[nodiscard]] event_memory* find(std::uint64_t id) noexcept {
        event_memory& m = ring[id & ring_mask];
        return id != 0 && m.id == id ? &m : nullptr;
    }
};

inline void retain(ledger_core& ledger) noexcept {
    ++ledger.refs;
}
void release(ledger_core& ledger) noexcept;

/// Opens the books of a channel; false when it is the library's own, of another
/// thread, or has some already.
bool oversee(ledger_core& ledger, channel_core& core);
/// Closes them; the sums stay.
void forget(channel_core& core) noexcept;

/// Adds what there is apart from events: sequences and payloads that wait, systems, phases;
/// of those that have ended while this ledger was there, what they were at the end.
void copy_state(const ledger_core& ledger, books& to);

/// Is told from now on, after those who are already; or no more.
void add_taker(ledger_core& ledger, event_sink& to);
void remove_taker(ledger_core& ledger, const event_sink& which) noexcept;

/// Where a subscription was made, which may have ended; UINT32_MAX: not remembered.
[[nodiscard]] std::uint32_t site_of(const ledger_core& ledger, std::uint32_t subscription) noexcept;

/// The busiest frame so far, the one that goes on included.
[[nodiscard]] std::uint64_t max_in_frame(const account& books) noexcept;

/// A frame is over for the ledger of this thread, if there is one.
void note_frame(std::int64_t time) noexcept;

} // namespace detail
WIRED_COURIER_NAMESPACE_END
