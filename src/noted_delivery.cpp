// Delivering on channels that a ledger is attached to.
#include "in_flight.hpp"
#include "ledger_pages.hpp"
#include "noted.hpp"
#include "subscriptions.hpp"

#include <algorithm>
#include <utility>
#include <vector>

namespace courier::inline WIRED_COURIER_ABI::detail {

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
    std::uint64_t state = now.ledger().shake ^ (now.id() * 0x9E3779B97F4A7C15U);
    for (std::size_t i = count; i > 1; --i) {
        std::swap(turns[i - 1], turns[next_random(state) % i]);
    }
}

// Those who did not get their turn since `by` stopped the publish.
void pass_over(noted_now& now, const slot& by, slot& left) {
    if (subscription_note* const note = note_of(left); note != nullptr) {
        ++note->missed[turn::stopped];
        if (by.list == left.list) {
            const std::uint32_t first = site_of(by);
            if (first != UINT32_MAX && first != note->site) {
                note_order(now.ledger(), now.core().books != nullptr ? now.core().books->number : 0, first, note->site,
                           order_matter::stops);
            }
        }
    }
}

// As `run()` in detail/publish.hpp does it, with the place kept where others see it.
[[gnu::always_inline]] inline std::uint32_t walk_plainly(noted_now& now, frame& f, const entry* const first,
                                                         std::uint32_t count, const void* payload) {
    const entry* at = first;
    f.end = reinterpret_cast<std::uintptr_t>(first + count);
    while (reinterpret_cast<std::uintptr_t>(at) < f.end) {
#if WIRED_COURIER_EXCEPTIONS
        try {
#endif
            do {
                now.at = at;
                at->run(at->state, payload);
            } while (reinterpret_cast<std::uintptr_t>(++at) < f.end);
#if WIRED_COURIER_EXCEPTIONS
        } catch (...) {
            note_failure(f, *now.called());
            now.missed(turn::failed);
            ++at;
        }
#endif
    }
    now.at = nullptr;
    return static_cast<std::uint32_t>(at - first);
}

std::uint32_t walk_carefully(noted_publish& now, frame& f, stage_list& list, std::uint32_t count,
                             const std::uint32_t* turns, const void* payload) {
    std::uint32_t i = 0;
    f.end = 1;
    for (; i < count && f.end != 0; ++i) {
        const std::uint32_t at = turns != nullptr ? turns[i] : i;
        const entry hot = list.entries[at];
        if (is_gone(hot)) {
            hot.run(hot.state, payload);
        } else {
            now.serve(f, *list.slots[at], hot, payload);
        }
    }
    return i;
}

// Each turn is looked at, in shaken order if that is wanted.
#if defined(__GNUC__)
__attribute__((noinline))
#endif
std::uint32_t
walk_list_carefully(noted_publish& now, frame& f, stage_list& list, std::uint32_t count, const void* payload) {
    if (now.ledger().shake == 0) {
        return walk_carefully(now, f, list, count, nullptr, payload);
    }
    std::vector<std::uint32_t> turns(count);
    for (std::uint32_t i = 0; i < count; ++i) {
        turns[i] = i;
    }
    shuffle(turns.data(), count, now);
    const std::uint32_t walked = walk_carefully(now, f, list, count, turns.data(), payload);
    if ((f.unusual & frame_stopped) != 0) {
        for (std::uint32_t i = walked; i < count; ++i) {
            if (!is_gone(list.entries[turns[i]])) {
                pass_over(now, *f.ruled_by, *list.slots[turns[i]]);
            }
        }
    }
    return walked;
}

// Those from `from` on, whom a verdict kept from being reached.
void pass_over_rest(noted_now& now, const frame& f, const stage_list& list, std::uint32_t from, std::uint32_t count) {
    for (std::uint32_t i = from; i < count; ++i) {
        if (!is_gone(list.entries[i])) {
            pass_over(now, *f.ruled_by, *list.slots[i]);
        }
    }
}

std::size_t walk_list(noted_publish& now, frame& f, stage_list& list, std::uint32_t count, const void* payload) {
    const bool careful = now.careful();
    const std::uint32_t walked = careful ? walk_list_carefully(now, f, list, count, payload)
                                         : walk_plainly(now, f, list.entries, count, payload);
    if ((f.unusual & frame_stopped) != 0 && (!careful || now.ledger().shake == 0)) [[unlikely]] {
        pass_over_rest(now, f, list, walked, count);
    }
    return walked;
}

std::size_t walk_noted(noted_publish& now, frame& f, const void* payload) {
    channel_core& core = *f.core;
    now.in = &f;
    const std::uint32_t begun = core.next_born;
    now.walk = ++core.walks;
    std::size_t walked = 0;
    for (stage_list* list = core.lists; list != nullptr; list = list->next) {
        const std::uint32_t count = count_before(*list, begun);
        if ((f.unusual & frame_ruled) != 0) { // those of later stages
            pass_over_rest(now, f, *list, 0, count);
            continue;
        }
        if (count != 0) {
            walked += walk_list(now, f, *list, count, payload);
        }
        if ((f.unusual & frame_closed) != 0) {
            break;
        }
    }
    now.turn_of = nullptr;
    if ((f.unusual & frame_ruled) != 0) {
        now.ruled(f);
    }
    return walked;
}

[[nodiscard]] bool is_too_deep() noexcept {
    const frame* const outer = innermost();
    return outer != nullptr && outer->depth + 1 >= depth_limit();
}

} // namespace

namespace {

#if defined(__GNUC__)
__attribute__((noinline))
#endif
receipt
deliver_fully_noted(channel_core& core, const void* payload, std::source_location where) {
    if (core.work == work_closed) {
        return {0, receipt_closed, nullptr};
    }
    noted_publish now(core, payload, where);
    if (is_too_deep()) [[unlikely]] {
        return now.ended(refuse(core, where));
    }
    if ((core.work & work_compact) != 0 && innermost() == nullptr) {
        tidy(core);
    }
    if ((core.work & work_keeps) != 0) {
        core.kept->keep(payload);
    }
    return now.ended(walk_in_frame(core, where, [&](frame& f) { return walk_noted(now, f, payload); }));
}

// Whether this publish has nothing to look at but what every one has.
inline bool is_plain(const channel_core& core, const account& books, std::source_location where) noexcept {
    return core.work == (work_entries | work_noted) && this_thread.outermost.core == nullptr &&
           books.plain_in == books.ledger->epoch && books.site_key == key_of(where) && books.until_timed != 0 &&
           this_oversight.publisher == nullptr && !this_oversight.outside && this_oversight.now == nullptr;
}

// Something out of the ordinary happened; `now` is no longer this thread's.
#if defined(__GNUC__)
__attribute__((noinline))
#endif
receipt
finish_noted(noted_now& now, frame& f, account& books, std::uint32_t walked, std::uint32_t count) {
    struct ledger_kept {
        ledger_core& ledger;
        ~ledger_kept() {
            if (ledger.over) {
                this_oversight.cause = 0;
                release(ledger);
            }
        }
    } const kept{now.ledger()};
    channel_books& sums = books.sums;
    const auto skipped = static_cast<std::uint32_t>(f.unusual);
    if ((f.unusual & frame_stopped) != 0) {
        pass_over_rest(now, f, f.core->base, walked, count);
    }
    sums.stopped += (f.unusual & frame_ruled) != 0 ? 1U : 0U;
    const std::uint32_t heard = walked - std::min(walked, skipped + now.fell);
    sums.deliveries += heard;
    if (heard == 0) {
        ++sums.unheard;
        ++books.site->unheard;
    }
    return finish(f, walked);
}

} // namespace

receipt deliver_noted(channel_core& core, const void* payload, std::source_location where) {
    account& books = *core.books;
    if (!is_plain(core, books, where)) {
        return deliver_fully_noted(core, payload, where);
    }
    ledger_core& ledger = *books.ledger;
    const std::uint64_t cause = this_oversight.cause;
    noted_now now(core, ledger, ++ledger.newest_id, nullptr);
    --books.until_timed;
    ++books.site->count;
    ++books.sums.published;
    now.walk = ++core.walks;
    books.newest_event = now.id_;
    remember(ledger, now.id_, {cause, this_oversight.handling}, books.number, books.newest_site, false);
    this_oversight.cause = now.id_;
    this_oversight.now = &now;
    frame& f = this_thread.outermost;
    f.core = &core;
    now.in = &f;
    const std::uint32_t count = core.base.size;
    const std::uint32_t walked = walk_plainly(now, f, core.base.entries, count, payload);
    this_oversight.now = nullptr;
    this_oversight.cause = cause;
    if (f.unusual != 0 || now.fell != 0 || ledger.over) [[unlikely]] {
        return finish_noted(now, f, books, walked, count);
    }
    books.sums.deliveries += walked;
    f.core = nullptr;
    return {walked, 0, nullptr};
}

receipt deliver_parts_noted(channel_core& core, std::vector<address_part*>& parts, const void* payload,
                            std::source_location where, bool vacant) {
    noted_publish now(core, payload, where);
    if (now.ledger().shake != 0) {
        for (std::size_t from = 0, past = 0; from < parts.size(); from = past) {
            while (past < parts.size() && parts[past]->self->list == parts[from]->self->list) {
                ++past;
            }
            shuffle(parts.data() + from, past - from, now);
        }
    }
    const auto walk = [&](frame& f) {
        now.in = &f;
        std::size_t walked = 0;
        const stage_list* last = nullptr;
        for (address_part* part : parts) {
            slot& s = *part->self;
            if (f.end == 0 || ((f.unusual & frame_ruled) != 0 && s.list != last)) {
                if ((f.unusual & frame_ruled) == 0) {
                    break;
                }
                if (subscription_note* const note = note_of(s); note != nullptr) {
                    ++note->extra;
                    pass_over(now, *f.ruled_by, s);
                }
                continue;
            }
            last = s.list;
            ++walked;
            if (subscription_note* const note = note_of(s); note != nullptr) {
                ++note->extra;
            }
            now.serve(f, s, part->hot, payload);
        }
        now.turn_of = nullptr;
        if ((f.unusual & frame_ruled) != 0) {
            now.ruled(f);
        }
        return walked;
    };
    const receipt r = deliver_in_frame(core, where, walk);
    return now.ended(vacant ? r.marked(receipt_vacant) : r);
}

void deliver_to_one_noted(channel_core& core, slot& s, const void* const* payloads, std::size_t count,
                          std::source_location where) {
    deliver_in_frame(core, where, [&](frame& f) {
        std::size_t walked = 0;
        while (walked < count && f.end != 0 && (s.blocked & block_ended) == 0 && is_noted(core)) {
            const auto skipped = static_cast<std::uint32_t>(f.unusual);
            noted_publish now(core, payloads[walked], where, true);
            now.in = &f;
            if (subscription_note* const note = note_of(s); note != nullptr) {
                ++note->extra;
            }
            now.serve(f, s, s.list->entries[s.index], payloads[walked++]);
            now.turn_of = nullptr;
            now.ended({1 - (static_cast<std::uint32_t>(f.unusual) - skipped), 0, nullptr});
        }
        return walked;
    });
}

} // namespace courier::inline WIRED_COURIER_ABI::detail
