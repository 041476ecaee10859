// SPDX-License-Identifier: MIT
#include "delivery/subscriptions.hpp"

#include "delivery/slots.hpp"

#include <courier/detail/base/in_use.hpp>
#include <courier/detail/delivery/flight.hpp>
#include <courier/detail/delivery/onlooker.hpp>
#include <courier/fault.hpp>

#include <atomic>
#include <cstring>
#include <memory>
#include <new>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

// The list of a stage; made when there is none yet.
stage_list& list_for(channel_core& core, stage place, std::source_location where) {
    if (core.lists == &core.base && core.base.next == nullptr && core.base.size == 0) {
        if (core.base.place != place || core.base.place_name.empty()) {
            core.base.place = place; // a channel whose subscriptions share one stage needs one list
            core.base.place_name = place.name();
        }
        return core.base;
    }
    stage_list** at = &core.lists;
    while (*at != nullptr && (*at)->place < place) {
        at = &(*at)->next;
    }
    if (*at != nullptr && (*at)->place == place) {
        if (checked_build && (*at)->place_name != place.name()) {
            raise(fault_code::stage_clash, severity::notice,
                  "stages '" + (*at)->place_name + "' and '" + std::string{place.name()} +
                      "' have the same place in the order of channel '" + core.name + "'",
                  "give one of them a place of its own with courier::between()", where);
        }
        return **at;
    }
    auto made = std::make_unique<stage_list>();
    made->place = place;
    made->place_name = place.name();
    made->core = &core;
    made->next = *at;
    *at = made.release();
    core.work |= work_stages;
    return **at;
}

// What the loops run for `s` from now on, wherever it is listed.
void set_run(slot& s, invoke_fn run) noexcept {
    s.list->set_run(s.index, run);
    if (s.list->core->book != nullptr) {
        s.list->core->book->set_run(part_of(s), run);
    }
}

void set_gone(slot& s) noexcept {
    s.list->set_gone(s.index);
    if (s.list->core->book != nullptr) {
        s.list->core->book->set_run(part_of(s), &skip);
    }
}

// The whole handler, where it is one word, since the entry is about to lose it.
void keep_word(slot& s) noexcept {
    s.back = static_cast<slot**>(s.list->entries[s.index].state);
}

void report_twice(const channel_core& core, const slot& s, const slot& earlier) {
    raise(fault_code::handler_twice, severity::notice,
          "subscriber '" + s.owner->name + "' subscribes the same handler to '" + core.name + "' here and at " +
              place(earlier.where) + ", so it is called twice",
          "end the first subscription, or leave one of the two out", s.where);
}

bool same_address(const channel_core& core, const slot& a, const slot& b) noexcept {
    return core.book == nullptr ||
           (a.to_all == b.to_all && part_of(const_cast<slot&>(a)).code == part_of(const_cast<slot&>(b)).code);
}

// Only handlers that are one word can be compared; the look back is bounded so
// that checked builds stay usable with many subscriptions.
void look_for_twin(const channel_core& core, const slot& s) {
    constexpr int far_enough = 256;
    if (s.owner == nullptr || (s.ops->traits & handler_is_word) == 0 || (s.shape & shape_guarded) != 0) {
        return;
    }
    const void* word = s.list->entries[s.index].state;
    int looked_at = 0;
    for (const slot* other = s.next; other != nullptr && looked_at < far_enough; other = other->next, ++looked_at) {
        if (other->list == s.list && other->ops == s.ops && same_address(core, s, *other) &&
            (other->shape & shape_guarded) == 0 && other->list->entries[other->index].state == word) {
            report_twice(core, s, *other);
            return;
        }
    }
}

// Numbers come from one source for the whole process, so that the key of an
// ended subscription matches no later one, not even on a channel made anew in
// the same place. Taken in blocks, the source costs next to nothing.
[[gnu::noinline]] void set_birth_numbers_aside(channel_core& core) {
    static std::atomic<std::uint32_t> source{0};
    constexpr std::uint32_t block = 64;
    constexpr std::uint32_t first_block = 4;
    core.births_left = core.next_born == 0 ? first_block : block;
    core.next_born = source.fetch_add(core.births_left, std::memory_order_relaxed) + 1;
}

std::uint32_t take_birth_number(channel_core& core) {
    if (core.births_left == 0) [[unlikely]] {
        set_birth_numbers_aside(core);
    }
    --core.births_left;
    return core.next_born++;
}

// Whether closing the gaps frees enough to be better than taking more room. A
// large list is out of the cache, so that going through it must pay more.
bool gaps_pay(const stage_list& list) {
    constexpr std::uint32_t in_cache = 4096;
    return list.dead != 0 && list.dead * (list.size <= in_cache ? 4 : 2) >= list.size;
}

void report_full(const channel_core& core, std::source_location where) {
    raise(fault_code::channel_full, severity::refused,
          "subscribe refused: channel '" + core.name + "' has " + std::to_string(most_entries) +
              " subscriptions in one stage",
          "spread them over several channels", where);
}

// The list for one more entry, with room for it; null when it is full.
stage_list* room_for_one(channel_core& core, const attach_request& request) {
    flight* const outermost = outermost_on(core);
    stage_list& list = list_for(core, request.place, request.where);
    if (list.size == list.capacity && outermost == nullptr && gaps_pay(list)) {
        list.compact();
    }
    if (list.size == most_entries) {
        report_full(core, request.where);
        return nullptr;
    }
    if (request.at != nullptr) {
        core.book->make_room();
    }
    list.make_room(outermost != nullptr);
    if (outermost != nullptr && list.outgrown != nullptr) {
        outermost->ask_clean_up();
    }
    return &list;
}

// The channel's subscriptions share one list, which has room for one more.
bool is_simple(const channel_core& core, const attach_request& request) noexcept {
    const stage_list& only = core.base;
    return !checked_build && core.lists == &only && only.next == nullptr && only.size < only.capacity &&
           only.place == request.place && request.at == nullptr;
}

// As `room_for_one()`, with the slot discarded when there is no list for it.
[[gnu::noinline]] stage_list* list_with_room(channel_core& core, const attach_request& request, slot& s) {
#if WIRED_COURIER_EXCEPTIONS
    try {
#endif
        stage_list* list = room_for_one(core, request);
        if (list == nullptr) {
            discard(core, s);
        }
        return list;
#if WIRED_COURIER_EXCEPTIONS
    } catch (...) {
        discard(core, s);
        throw;
    }
#endif
}

} // namespace

namespace {

[[gnu::cold]] void report_closed(const channel_core& core, std::source_location where) {
    raise(fault_code::closed_channel, severity::refused,
          "subscribe refused: channel '" + core.name + "' is being destroyed",
          "subscribe before the channel ends, or to one that outlives the subscriber", where);
}

[[gnu::cold]] void report_ended_meanwhile(const channel_core& core, std::source_location where) {
    raise(fault_code::closed_channel, severity::refused,
          "subscribe refused: channel '" + core.name +
              "' or its subscriber ended while the handler was moved into its place",
          "end neither in the handler's move constructor", where);
}

} // namespace

slot* attach(channel_core& core, const attach_request& request) {
    if (checked_build) {
        check_use(core, "subscribed to", request.where);
    }
    if (core.closed) [[unlikely]] {
        report_closed(core, request.where);
        return nullptr;
    }
    if ((request.ops->traits & handler_has_verdict) != 0 && core.stop == nullptr) {
        core.stop = new stop_note;
    }
    const held until_then(core);
    slot& s = make_slot(core, request); // moves the handler, which may do anything, so before anything is looked up
    if (core.closed || (request.whose.owner != nullptr && request.whose.owner->ended)) [[unlikely]] {
        report_ended_meanwhile(core, request.where);
        discard(core, s);
        return nullptr;
    }
    stage_list* const found = is_simple(core, request) ? &core.base : list_with_room(core, request, s);
    if (found == nullptr) [[unlikely]] {
        return nullptr;
    }
    stage_list& list = *found;
    s.list = &list;
    s.index = list.size & most_entries;
    s.born = take_birth_number(core);
    list.entries[s.index] = {run_of(s), hot_state(s, request.handler)};
    list.slots[s.index] = &s;
    list.resize(list.size + 1);
    if (core.book != nullptr) {
        enter_book(core, s, request.at);
    }
    ++core.live;
    core.spans += (s.ops->traits & handler_takes_span) != 0 ? 1U : 0U;
    core.posts += (s.ops->traits & handler_takes_posts) != 0 ? 1U : 0U;
    core.work |= work_entries | ((s.ops->traits & handler_has_verdict) != 0 ? work_verdicts : work_none);
    if (is_noted(core)) [[unlikely]] {
        looks_on().attached(s, request);
    }
    if (party* const owner = request.whose.owner; owner != nullptr) {
        enter_party(s);
        if (owner->is_silent()) {
            block(s, block_owner_paused);
        }
        if (checked_build) {
            look_for_twin(core, s);
        }
    }
    return &s;
}

void block(slot& s, slot_block reason) noexcept {
    if (checked_build) {
        check_use(*s.list->core, "paused", s.where);
    }
    const bool was_blocked = (s.blocked & (block_paused | block_owner_paused)) != 0;
    s.blocked = (s.blocked | reason) & 15U;
    ++this_thread.turn_changes;
    set_run(s, &skip);
    if (is_noted(*s.list->core)) [[unlikely]] {
        looks_on().blocked(s, was_blocked);
    }
    if (s.ops->told != nullptr) {
        s.ops->told(s);
    }
}

void unblock(slot& s, slot_block reason) noexcept {
    if (checked_build) {
        check_use(*s.list->core, "resumed", s.where);
    }
    const bool was_blocked = (s.blocked & (block_paused | block_owner_paused)) != 0;
    s.blocked = s.blocked & ~static_cast<std::uint32_t>(reason) & 15U;
    if (is_noted(*s.list->core)) [[unlikely]] {
        looks_on().blocked(s, was_blocked);
    }
    if (s.blocked == 0) {
        set_run(s, run_of(s));
    }
    if (s.ops->told != nullptr) {
        s.ops->told(s);
    }
}

void detach(slot& s) noexcept {
    if ((s.blocked & block_ended) != 0) {
        return; // what it was running has done this
    }
    stage_list& list = *s.list;
    channel_core& core = *list.core;
    if (checked_build) {
        check_use(core, "unsubscribed from", s.where);
    }
    if (is_noted(core)) [[unlikely]] {
        looks_on().detached(s);
    }
    if (s.owner != nullptr) {
        leave_party(s);
    } else {
        unlink(s);
    }
    --core.live;
    core.spans -= (s.ops->traits & handler_takes_span) != 0 ? 1U : 0U;
    core.posts -= (s.ops->traits & handler_takes_posts) != 0 ? 1U : 0U;
    if (flight* outermost = outermost_on(core); outermost != nullptr) {
        s.blocked = (s.blocked | block_ended) & 15U;
        ++this_thread.turn_changes;
        keep_word(s);
        set_gone(s);
        if (s.ops->told != nullptr) {
            s.ops->told(s);
        }
        static_cast<void>(held<party>(s.owner).let_go()); // until it is freed, since its name may still be wanted
        s.next = core.limbo;
        core.limbo = &s;
        outermost->ask_clean_up();
        return;
    }
    list.entries[s.index] = {&skip, &gone_mark};
    if (!core.closed) {
        leave_list(core, s);
    } else {
        ++list.dead;
    }
    discard(core, s);
}

namespace {

constexpr std::uint32_t work_without_entries = work_keeps | work_noted | work_tells;

} // namespace

void leave_list(channel_core& core, const slot& s) noexcept {
    stage_list& list = *s.list;
    if (s.index == list.size - 1) {
        list.resize(list.size - 1);
    } else {
        ++list.dead;
    }
    if (list.size == 0 && core.lists->next == nullptr) {
        core.work &= work_without_entries; // as tidy() would say
    } else if (core.live == 0 || list.dead * 8 > list.size) {
        core.work |= work_compact;
        if (core.live == 0 || list.dead * 2 > list.size) {
            tidy(core);
        }
    }
}

void tidy(channel_core& core) noexcept {
    core.work = (core.lists->next != nullptr ? work_stages : work_none) | (core.work & work_without_entries) |
                (core.live != 0 ? core.work & work_verdicts : work_none);
    for (stage_list* list = core.lists; list != nullptr; list = list->next) {
        if (list->dead * 8 > list->size || list->dead == list->size) {
            list->compact();
        }
        if (list->size != 0) {
            core.work |= work_entries;
        }
    }
}

void report_empty_handler(const channel_core& core, std::source_location where) {
    raise(fault_code::empty_handler, severity::refused, "the handler subscribed to '" + core.name + "' is empty",
          "give it a function before you subscribe it", where);
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
