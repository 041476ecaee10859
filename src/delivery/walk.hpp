// The engine: every publish walks subscriptions here, over an observer, which
// is nothing at all on the plain path and a ledger where one is attached.
// SPDX-License-Identifier: MIT
#pragma once

#include "delivery/in_flight.hpp"
#include "delivery/subscriptions.hpp"

#include <courier/detail/base/in_use.hpp>
#include <courier/detail/delivery/publish.hpp>

#include <cstddef>
#include <cstdint>
#include <source_location>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// Calls one handler; what it throws is noted. True when it has returned.
inline bool serve_one([[maybe_unused]] flight& f, [[maybe_unused]] const slot& s, const entry& hot,
                      const void* payload) {
#if WIRED_COURIER_EXCEPTIONS
    try {
#endif
        hot.run(hot.state, payload);
        return true;
#if WIRED_COURIER_EXCEPTIONS
    } catch (...) {
        note_failure(f, s);
        return false;
    }
#endif
}

/// In a catch clause: notes that the handler at `at` threw, and serves the rest.
template <class Turns>
const entry* serve_rest_of(const stage_list& list, const entry* at, [[maybe_unused]] const entry* past,
                           [[maybe_unused]] const void* payload, [[maybe_unused]] Turns seen) {
#if WIRED_COURIER_EXCEPTIONS
    flight& f = *innermost();
    const auto note_one = [&] {
        note_failure(f, *list.slots[f.index_of(at)]);
        seen.failed();
        ++at;
    };
    note_one();
    while (at != past && f.goes_on()) {
        try {
            do {
                seen.turn(at);
                at->run(at->state, payload);
            } while (++at != past && f.goes_on());
        } catch (...) {
            note_one();
        }
    }
#else
    static_cast<void>(list);
#endif
    return at;
}

/// Turns in one list of several, or of one.
struct listed_turns {
    const stage_list& list;

    void turn(const entry*) const noexcept {}
    void failed() const noexcept {}
    const entry* serve_rest(const entry* at, const entry* past, const void* payload) const {
        return serve_rest_of(list, at, past, payload, *this);
    }
};

/// The first `count` entries of one list; returns how many were walked.
template <class Turns>
[[gnu::always_inline]] inline std::size_t serve_list(flight& f, const stage_list& list, std::uint32_t count,
                                                     const void* payload, Turns seen) {
    const entry* const first = list.entries; // which the list may outgrow
    const entry* const at = (f.channel().work & work_verdicts) != 0
                                ? serve_entries<true>(f, first, first + count, payload, seen)
                                : serve_entries<false>(f, first, first + count, payload, seen);
    return f.index_of(at);
}

/// Nobody looks on.
struct unobserved {
    static constexpr bool looks_on = false;

    void walk_begins(flight&) const noexcept {}
    std::size_t serve_stage(flight& f, stage_list& list, std::uint32_t count, const void* payload) const {
        return serve_list(f, list, count, payload, listed_turns{list});
    }
    void passed_over(flight&, const stage_list&, std::uint32_t) const noexcept {}

    void turns_begin(flight&) const noexcept {}
    void serve(flight& f, slot& s, const entry& hot, const void* payload) const { serve_one(f, s, hot, payload); }
    void passed_over(flight&, slot&) const noexcept {}

    void walk_ends(flight&) const noexcept {}
};

/// Serves everybody who was there when the walk began, one stage after the
/// other; returns how many turns came.
template <class Observer>
std::size_t walk_stages(flight& f, const void* payload, Observer& seen) {
    channel_core& core = f.channel();
    const std::uint32_t begun = core.next_born;
    seen.walk_begins(f);
    std::size_t walked = 0;
    for (stage_list* list = core.lists; list != nullptr; list = list->next) {
        const std::uint32_t count = count_before(*list, begun);
        if (f.is_ruled()) { // by an earlier stage
            if constexpr (!Observer::looks_on) {
                break;
            }
            seen.passed_over(f, *list, count);
            continue;
        }
        if (count != 0) {
            walked += seen.serve_stage(f, *list, count, payload);
        }
        if (f.is_closed()) {
            break;
        }
    }
    seen.walk_ends(f);
    return walked;
}

/// Serves those that `turns` gives, in its order: `next()` is one part after
/// the other, then null.
template <class Turns, class Observer>
std::size_t walk_turns(flight& f, Turns turns, const void* payload, Observer& seen) {
    const std::uint32_t begun = f.channel().next_born;
    seen.turns_begin(f);
    std::size_t walked = 0;
    const stage_list* last = nullptr;
    while (address_part* const part = turns.next()) {
        slot& s = *part->self;
        if (walked != 0 && born_since(s, begun)) { // the very first one was there before
            continue;
        }
        if (f.is_closed()) {
            break;
        }
        if (f.is_stopped() || (f.is_ruled() && s.list != last)) {
            if constexpr (!Observer::looks_on) {
                break;
            }
            seen.passed_over(f, s);
            continue;
        }
        last = s.list;
        ++walked;
        seen.serve(f, s, part->hot, payload);
    }
    seen.walk_ends(f);
    return walked;
}

/// Parts that were put in order before.
struct gathered_parts {
    const std::vector<address_part*>& all;
    std::size_t at = 0;

    address_part* next() noexcept { return at < all.size() ? all[at++] : nullptr; }
};

/// A publish to everybody on a channel that is open, in all that it consists of.
template <class Observer>
receipt deliver_to_all(channel_core& core, const void* payload, std::source_location where, Observer& seen) {
    if (is_too_deep(innermost())) [[unlikely]] {
        return refuse(core, where);
    }
    const auto walk = [&](flight& f) { return walk_stages(f, payload, seen); };
    if ((core.work & work_keeps) != 0) [[unlikely]] {
        const held until_then(core);
        keep_payload(core, payload); // first; copying it may end the channel
        if (core.closed) {
            return receipts::made(0, receipt_closed);
        }
        return walk_in_flight(core, where, walk);
    }
    if ((core.work & work_compact) != 0 && innermost() == nullptr) {
        tidy(core);
    }
    return walk_in_flight(core, where, walk);
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
