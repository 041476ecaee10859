// Where a ledger tells what happens, should somebody want to record it.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/detail/delivery/oversight.hpp>
#include <courier/detail/delivery/payload_kind.hpp>

#include <cstddef>
#include <cstdint>
#include <source_location>
#include <string>
#include <string_view>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

struct account;
struct subscription_note;

/// One subscription's turn.
struct turn_note {
    std::uint32_t subscription = 0;
    std::uint32_t took = 0; ///< ns; 0: was not timed
    turn why = turn::served;
};

/// One event. Pointers are good during the call only.
struct event_facts {
    std::uint64_t id = 0;
    std::uint64_t cause = 0;
    std::uint32_t handling = 0; ///< the subscription whose handler made it; 0: none
    const account* on = nullptr;
    std::uint32_t channel = 0; ///< its number in the ledger's list
    std::uint32_t site = 0;    ///< of the publish, in the ledger's list
    std::size_t kept = 0;      ///< what `begin()` returned
    std::string_view to;       ///< the address; empty: none
    bool outside = false;
    bool retained = false;            ///< what the channel kept is served to one who came late
    const turn_note* turns = nullptr; ///< of those whose turn came
    std::size_t turn_count = 0;
    std::uint32_t flags = 0;             ///< of the receipt
    std::uint32_t stopped_by = 0;        ///< a subscription
    const foreign_event* from = nullptr; ///< where it comes from; null: from this program
};

struct post_facts {
    std::uint64_t id = 0;
    std::uint64_t cause = 0;
    std::uint32_t handling = 0;
    std::uint32_t channel = 0;
    std::uint32_t site = 0;
    address_label to;
    posting_outcome outcome = posting_outcome::waits;
    bool outside = false;
    const payload_kind* kind = nullptr;
    const void* payload = nullptr;
    std::string_view outbox;
};

/// Who takes what a ledger tells: a recorder, a live reader. Any number may, in
/// the order of their coming; each may leave at any time.
///
/// Calls come on the ledger's thread. An event is told when its publish has
/// ended, so those that it caused come before it; to those only who took its
/// beginning.
class event_sink {
public:
    event_sink() = default;
    event_sink(const event_sink&) = delete;
    event_sink& operator=(const event_sink&) = delete;
    virtual ~event_sink() = default;

    /// Whether anything on these channels is wanted; asked before each call about
    /// them, so that the answer should stay the same.
    [[nodiscard]] virtual bool takes(const account& channels) { return static_cast<void>(channels), true; }

    /// A publish begins. The payload is only sure to be there now, since a handler
    /// may destroy what holds it. Publishes end in the opposite order.
    [[nodiscard]] virtual std::size_t begin(const payload_kind* kind, const void* payload) = 0;
    virtual void published(const event_facts& what) = 0;
    virtual void posted(const post_facts& what) = 0;
    virtual void channel_opened(const account& which) = 0;
    virtual void channel_closed(const account& which) = 0;
    virtual void subscribed(const subscription_note& which) = 0;
    virtual void ended(const subscription_note& which, bool channel_closed) = 0;
    virtual void paused(const subscription_note& which, bool is_paused) = 0;
    virtual void party_ended(std::uint32_t number) = 0;
    /// A frame is over; `number` is its own.
    virtual void frame(std::uint64_t number, std::int64_t time) = 0;
    /// A module is about to go, and with it what kinds point to.
    virtual void forget_kinds() noexcept = 0;
    /// The ledger ends.
    virtual void over() noexcept = 0;
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
