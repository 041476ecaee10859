// SPDX-License-Identifier: MIT
// Delivering on channels that a ledger is attached to.
#include "delivery/walk.hpp"
#include "ledger/ledger_pages.hpp"
#include "ledger/noted.hpp"
#include <courier/detail/base/in_use.hpp>

#include <algorithm>
#include <bit>
#include <numeric>
#include <optional>
#include <utility>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

std::uint64_t next_random(std::uint64_t& state) noexcept { // splitmix64 (Steele, Lea and Flood, 2014)
    state += 0x9E3779B97F4A7C15U;
    std::uint64_t z = state;
    z = (z ^ (z >> 30)) * 0xBF58476D1CE4E5B9U;
    z = (z ^ (z >> 27)) * 0x94D049BB133111EBU;
    return z ^ (z >> 31);
}

// In an order that the seed and the event decide (Fisher and Yates' shuffle).
template <class T>
void shuffle(T* turns, std::size_t count, const noted_now& now) {
    std::uint64_t state = now.ledger().order_seed ^ (now.id() * 0x9E3779B97F4A7C15U);
    for (std::size_t i = count; i > 1; --i) {
        std::swap(turns[i - 1], turns[next_random(state) % i]);
    }
}

// Whether it would have been served, for all that does not depend on the payload. What throws then is no period that
// runs.
bool is_in_its_period(slot& s) noexcept {
    if (s.blocked != 0) {
        return false;
    }
    if ((s.shape & shape_guarded) == 0 || !static_cast<full_slot&>(s).guard.condition) {
        return true;
    }
#if WIRED_COURIER_EXCEPTIONS
    try {
#endif
        return static_cast<full_slot&>(s).guard.condition(nullptr) == turn::served;
#if WIRED_COURIER_EXCEPTIONS
    } catch (...) {
        return false;
    }
#endif
}

// Those who did not get their turn since `by` stopped the publish.
void pass_over(noted_now& now, const slot& by, slot& left) {
    if (subscription_note* const note = note_of(left); note != nullptr) {
        note->missed[turn::stopped] += now.is_for_later(left) ? 0U : 1U;
        if (by.list == left.list) {
            const subscription_note* const first = note_of(by);
            if (first != nullptr && first->site != note->site && is_in_its_period(left)) {
                note_order(now.ledger(), now.core().books != nullptr ? now.core().books->number : 0,
                           noted_handler_of(*first), noted_handler_of(*note), order_matter::stops);
            }
        }
    }
}

/// Keeps the place where others see it.
struct placed_turns {
    noted_now& now;
    const stage_list& list;

    void turn(const entry* at) const noexcept { now.at = at; }
    void failed() const noexcept { now.missed(turn::failed); }
    const entry* serve_rest(const entry* at, const entry* past, const void* payload) const {
        return serve_rest_of(list, at, past, payload, *this);
    }
};

// With nothing to look at but whose turn it is.
std::size_t serve_placed(noted_now& now, flight& f, const stage_list& list, std::uint32_t count, const void* payload) {
    now.list = &list;
    const std::size_t walked = serve_list(f, list, count, payload, placed_turns{now, list});
    now.at = nullptr;
    return walked;
}

// The order of the turns, shaken; empty when they are not, or there is no memory for it.
std::vector<std::uint32_t> shaken_turns(const noted_now& now, std::uint32_t count) {
    std::vector<std::uint32_t> turns;
    if (now.ledger().order_seed != 0) {
        keep_book(now.ledger(), [&] { turns.resize(count); });
        std::iota(turns.begin(), turns.end(), 0U);
        shuffle(turns.data(), turns.size(), now);
    }
    return turns;
}

// Those whom a verdict kept from being reached, `turns` from `from` on.
void pass_over_rest(noted_now& now, const flight& f, const stage_list& list, const std::vector<std::uint32_t>& turns,
                    std::size_t from, std::uint32_t count) {
    for (std::size_t i = from; i < count; ++i) {
        const std::size_t at = turns.empty() ? i : turns[i];
        if (!is_gone(list.entries[at])) {
            pass_over(now, f.ruled_by(), *list.slots[at]);
        }
    }
}

} // namespace

void noted_publish::walk_begins(flight& f) noexcept {
    in = &f;
    walk = ++f.channel().walks;
}

std::size_t noted_publish::serve_stage(flight& f, stage_list& of, std::uint32_t count, const void* payload) {
    std::size_t walked = 0;
    std::vector<std::uint32_t> turns;
    if (!careful()) {
        walked = serve_placed(*this, f, of, count, payload);
    } else {
        turns = shaken_turns(*this, count);
        for (; walked < count && f.goes_on(); ++walked) {
            const std::size_t place = turns.empty() ? walked : turns[walked];
            const entry hot = of.entries[place];
            if (is_gone(hot)) {
                f.skip_one();
            } else {
                call(f, *of.slots[place], hot, payload);
            }
        }
    }
    if (f.is_stopped()) [[unlikely]] {
        pass_over_rest(*this, f, of, turns, walked, count);
    }
    return walked;
}

void noted_publish::passed_over(const flight& f, const stage_list& of, std::uint32_t count) noexcept {
    pass_over_rest(*this, f, of, {}, 0, count);
}

void noted_publish::serve(flight& f, slot& s, const entry& hot, const void* payload) {
    if (subscription_note* const note = note_of(s); note != nullptr && !is_for_later(s)) {
        ++note->extra;
    }
    call(f, s, hot, payload);
}

void noted_publish::passed_over(const flight& f, slot& s) noexcept {
    if (subscription_note* const note = note_of(s); note != nullptr) {
        note->extra += is_for_later(s) ? 0 : 1;
        pass_over(*this, f.ruled_by(), s);
    }
}

namespace {

#if defined(__GNUC__)
__attribute__((noinline))
#endif
receipt
deliver_fully_noted(channel_core& core, const void* payload, std::source_location where, const publish_note& note) {
    if (core.work == work_closed) {
        return receipts::made(0, receipt_closed);
    }
    std::optional<noted_publish> now;
    keep_book(*core.books->ledger, [&] { now.emplace(core, payload, where, note); });
    if (!now) {
        return deliver_without_notes(core, payload, where); // there is no memory to note it
    }
    return now->ended(deliver_to_all(core, payload, where, *now));
}

// Whether this publish has nothing to look at but what every one has.
inline bool is_plain(const channel_core& core, const account& books, std::source_location where) noexcept {
    return (core.work & ~std::uint32_t{work_verdicts}) == (work_entries | work_noted) &&
           !this_thread.outermost.is_under_way() && books.plain_in == books.ledger->epoch &&
           books.site_key == key_of(where) && books.until_timed != 0 && this_oversight.now == nullptr &&
           std::bit_cast<std::uint16_t>(this_oversight.unusual) == 0;
}

// Something out of the ordinary happened; `now` is no longer this thread's.
#if defined(__GNUC__)
__attribute__((noinline))
#endif
receipt
finish_noted(plain_noted& now, flight& f, account& books, std::size_t walked, std::uint32_t count) {
    struct ledger_kept { // what is destroyed at the end may end it, as a handler may have
        held<ledger_core> ledger;
        held<ledger_core> let_go; ///< by one that had ended, for this publish
        explicit ledger_kept(ledger_core& of) noexcept
            : ledger(of), let_go(held<ledger_core>::taking_over(of.over ? &of : nullptr)) {}
        ledger_kept(const ledger_kept&) = delete;
        ledger_kept& operator=(const ledger_kept&) = delete;
        ~ledger_kept() {
            if (ledger->over) {
                this_oversight.cause = 0;
            }
        }
    } const kept(now.ledger());
    channel_books& sums = books.sums;
    if (f.is_stopped()) {
        pass_over_rest(now, f, f.channel().base, {}, walked, count);
    }
    sums.stopped += f.is_ruled() ? 1U : 0U;
    const std::size_t heard = walked - std::min<std::size_t>(walked, f.skipped());
    sums.deliveries += heard;
    if (heard == 0) {
        ++sums.unheard;
        ++books.site->unheard;
    }
    return finish(f, walked);
}

} // namespace

receipt deliver_noted(channel_core& core, const void* payload, std::source_location where, const publish_note& note) {
    account& books = *core.books;
    if (note.publisher != nullptr || !is_plain(core, books, where)) {
        return deliver_fully_noted(core, payload, where, note);
    }
    ledger_core& ledger = *books.ledger;
    const std::uint64_t cause = this_oversight.cause;
    flight& f = this_thread.outermost;
    plain_noted& now = *ledger.plain;
    now.begin(core);
    --books.until_timed;
    ++books.site->count;
    ++books.sums.published;
    books.newest_event = now.id();
    remember(ledger, now.id(), {cause, this_oversight.handling}, books.number, books.newest_site, false);
    this_oversight.cause = now.id();
    this_oversight.now = &now;
    f.begin(core);
    std::uint32_t count = 0; // of those that a verdict may keep from being reached
    std::size_t walked = 0;
    if ((core.work & work_verdicts) != 0) [[unlikely]] {
        count = core.base.size;
        walked = serve_placed(now, f, core.base, count, payload);
    } else {
        const placed_turns turns{now, core.base};
        walked = f.index_of(serve_entries<false>(f, core.base.entries, core.base.past, payload, turns));
        now.at = nullptr;
    }
    this_oversight.now = nullptr;
    this_oversight.cause = cause;
    if (!f.is_usual()) [[unlikely]] {
        return finish_noted(now, f, books, walked, count);
    }
    books.sums.deliveries += walked;
    f.end();
    return receipts::made(static_cast<std::uint32_t>(walked));
}

receipt deliver_at_noted(channel_core& core, const address_cell& at, const void* payload, std::source_location where,
                         const publish_note& note) {
    std::vector<address_part*> parts;
    bool vacant = false;
    bool collected = false;
    keep_book(*core.books->ledger, [&] {
        parts = collect_at(core, at.first, vacant);
        collected = true;
    });
    if (!collected) {
        return deliver_at_without_notes(core, at, payload, where);
    }
    if (vacant) {
        core.book->note_vacant(where);
    }
    return deliver_parts_noted(core, parts, payload, where, note, vacant);
}

receipt deliver_parts_noted(channel_core& core, std::vector<address_part*>& parts, const void* payload,
                            std::source_location where, const publish_note& note, bool vacant) {
    std::optional<noted_publish> noted;
    keep_book(*core.books->ledger, [&] { noted.emplace(core, payload, where, note); });
    if (!noted) {
        return with_vacancy(serve_parts(core, parts, payload, where), vacant);
    }
    noted_publish& now = *noted;
    if (now.ledger().order_seed != 0) {
        for (std::size_t from = 0, past = 0; from < parts.size(); from = past) {
            while (past < parts.size() && parts[past]->self->list == parts[from]->self->list) {
                ++past;
            }
            shuffle(parts.data() + from, past - from, now);
        }
    }
    const receipt r =
        deliver_in_flight(core, where, [&](flight& f) { return walk_turns(f, gathered_parts{parts}, payload, now); });
    return now.ended(with_vacancy(r, vacant));
}

void deliver_to_one_noted(channel_core& core, slot& s, const void* const* payloads, std::size_t count,
                          std::source_location where) {
    deliver_in_flight(core, where, [&](flight& f) {
        std::size_t walked = 0;
        while (walked < count && f.goes_on() && (s.blocked & block_ended) == 0 && is_noted(core)) {
            const std::uint32_t skipped = f.skipped();
            std::optional<noted_publish> noted;
            keep_book(*core.books->ledger, [&] { noted.emplace(core, payloads[walked], where, nothing_to_say, true); });
            if (!noted) {
                serve_one(f, s, s.list->entries[s.index], payloads[walked++]);
                continue;
            }
            noted_publish& now = *noted;
            now.turns_begin(f);
            now.serve(f, s, s.list->entries[s.index], payloads[walked++]);
            now.walk_ends(f);
            now.ended(receipts::made(1 - (f.skipped() - skipped)));
        }
        return walked;
    });
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
