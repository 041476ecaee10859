#include "subscriptions.hpp"

#include "noted.hpp"

#include <courier/detail/frame.hpp>
#include <courier/fault.hpp>

#include <atomic>
#include <cstring>
#include <memory>
#include <new>
#include <utility>

namespace courier::inline WIRED_COURIER_ABI::detail {

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
                      "' have the same place in the order of channel '" + core.name + "', at " + detail::place(where) +
                      "; give one of them a place of its own with courier::between()",
                  where);
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

bool fits_inline(const handler_ops& ops) noexcept {
    return ops.size <= inline_state && ops.align <= alignof(std::max_align_t);
}

void free_state_block(void* state, const handler_ops& ops) noexcept {
    ::operator delete(state, std::align_val_t{ops.align});
}

// Fills a slot with room for state: the guard first, then the handler.
void build_full(full_slot& s, attach_request& request) {
    const handler_ops& ops = *request.ops;
    ::new (&s.guard) slot_guard{request.times, std::move(request.condition)};
    if ((ops.traits & handler_is_word) != 0) {
        std::memcpy(s.state, request.handler, sizeof(void*));
        return;
    }
    if (fits_inline(ops)) {
        ops.construct(s.state, request.handler);
        return;
    }
    void* block = ::operator new(ops.size, std::align_val_t{ops.align});
#if WIRED_COURIER_EXCEPTIONS
    try {
        ops.construct(block, request.handler);
    } catch (...) {
        free_state_block(block, ops);
        throw;
    }
#else
    ops.construct(block, request.handler);
#endif
    ::new (s.state) void*(block);
    s.shape |= shape_on_heap;
}

void clear_part(const channel_core& core, slot& s) noexcept {
    part_of(s).self = nullptr;
    if (core.book->keyed()) {
        static_cast<keyed_part&>(part_of(s)).address = nullptr;
    }
}

// Needs no memory any more.
void enter_book(channel_core& core, slot& s, const address_request* at) noexcept {
    address_part& part = part_of(s);
    part.hot = s.list->entries[s.index];
    part.self = &s;
    if (at != nullptr && core.book->keyed()) {
        static_cast<keyed_part&>(part).address = at->address;
    }
    core.book->link(part, at);
}

void leave_book(channel_core& core, slot& s) noexcept {
    address_part& part = part_of(s);
    if (part.self == nullptr) {
        return; // it never came so far
    }
    core.book->unlink(part);
    if (!core.book->keyed()) {
        return;
    }
    if (held_address* address = static_cast<keyed_part&>(part).address; address != nullptr) {
        address->destroy(address);
    }
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

// A slot with everything in it but its place in the list and the book.
slot& make_slot(channel_core& core, attach_request& request) {
    const bool guarded = request.times != 0 || request.condition;
    const bool word = (request.ops->traits & handler_is_word) != 0;
    // A word needs no room of its own; reserved full slots serve it as well.
    const bool full = guarded || !word || (!core.words.has_free() && core.fulls.has_free());
    slot& s = full ? core.fulls.take() : core.words.take();
    s.ops = request.ops;
    s.back = nullptr;
    s.owner = request.owner;
    s.where = request.where;
    s.shape = ((full ? shape_full : no_shape) | (guarded ? shape_guarded : no_shape)) & 7U;
    s.to_all = core.book != nullptr && request.at == nullptr;
    if (core.book != nullptr) {
        clear_part(core, s);
    }
    if (full) {
#if WIRED_COURIER_EXCEPTIONS
        try {
            build_full(static_cast<full_slot&>(s), request);
        } catch (...) {
            static_cast<full_slot&>(s).guard = {};
            core.fulls.give_back(s);
            throw;
        }
#else
        build_full(static_cast<full_slot&>(s), request);
#endif
    }
    return s;
}

invoke_fn run_of(const slot& s) noexcept {
    return (s.shape & shape_guarded) != 0 ? &run_guarded : s.ops->invoke;
}

void* hot_state(slot& s, void* handler) noexcept {
    if ((s.shape & shape_guarded) != 0) {
        return &s;
    }
    if ((s.ops->traits & handler_is_word) != 0) {
        void* word = nullptr;
        std::memcpy(&word, handler, sizeof word);
        return word;
    }
    return (s.ops->traits & handlers_with_slots) != 0 ? static_cast<void*>(&s) : state_of(s);
}

void report_twice(const channel_core& core, const slot& s, const slot& earlier) {
    raise(fault_code::handler_twice, severity::notice,
          "subscriber '" + s.owner->name + "' subscribes the same handler to '" + core.name + "' at " + place(s.where) +
              " and at " + place(earlier.where) +
              "; it is served twice. End the first one, or leave one of the two out",
          s.where);
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
std::uint32_t take_birth_number(channel_core& core) {
    static std::atomic<std::uint32_t> source{0};
    constexpr std::uint32_t block = 64;
    constexpr std::uint32_t first_block = 4;
    if (core.births_left == 0) {
        core.births_left = core.next_born == 0 ? first_block : block;
        core.next_born = source.fetch_add(core.births_left, std::memory_order_relaxed) + 1;
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
          "subscribe at " + place(where) + " refused: channel '" + core.name + "' has " + std::to_string(most_entries) +
              " subscriptions in one stage; spread them over several channels",
          where);
}

// The list for one more entry, with room for it; null when it is full.
stage_list* room_for_one(channel_core& core, const attach_request& request) {
    frame* const outermost = outermost_on(core);
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
        outermost->unusual |= frame_clean_up;
    }
    return &list;
}

// The same, with the slot discarded when there is no list for it.
stage_list* list_with_room(channel_core& core, const attach_request& request, slot& s) {
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

slot* attach(channel_core& core, attach_request&& request) {
    if (checked_build) {
        check_use(core, "subscribed to", request.where);
    }
    if (core.closed) {
        raise(fault_code::closed_channel, severity::refused,
              "subscribe at " + place(request.where) + " refused: channel '" + core.name + "' is being destroyed",
              request.where);
        return nullptr;
    }
    if ((request.ops->traits & handler_has_verdict) != 0 && core.stop == nullptr) {
        core.stop = new stop_note;
    }
    slot& s = make_slot(core, request); // runs the handler's own code, so before anything is looked up
    stage_list* const found = list_with_room(core, request, s);
    if (found == nullptr) {
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
    core.spans += s.ops->invoke_span != nullptr ? 1U : 0U;
    core.work |= work_entries;
    if (is_noted(core)) [[unlikely]] {
        note_attached(s);
    }
    if (request.owner != nullptr) {
        link(s, request.owner->first);
        ++request.owner->count;
        if (request.owner->paused) {
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
    set_run(s, &skip);
    if (is_noted(*s.list->core)) [[unlikely]] {
        note_blocked(s, was_blocked);
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
        note_blocked(s, was_blocked);
    }
    if (s.blocked == 0) {
        set_run(s, run_of(s));
    }
    if (s.ops->told != nullptr) {
        s.ops->told(s);
    }
}

void detach(slot& s) noexcept {
    stage_list& list = *s.list;
    channel_core& core = *list.core;
    if (checked_build) {
        check_use(core, "unsubscribed from", s.where);
    }
    if (is_noted(core)) [[unlikely]] {
        note_detached(s);
    }
    unlink(s);
    if (s.owner != nullptr) {
        --s.owner->count;
    }
    --core.live;
    core.spans -= s.ops->invoke_span != nullptr ? 1U : 0U;
    if (frame* outermost = outermost_on(core); outermost != nullptr) {
        s.blocked = (s.blocked | block_ended) & 15U;
        set_gone(s);
        if (s.ops->told != nullptr) {
            s.ops->told(s);
        }
        retain(s.owner); // its name may still be wanted
        s.next = core.limbo;
        core.limbo = &s;
        outermost->unusual |= frame_clean_up;
        return;
    }
    list.entries[s.index] = {&skip, &gone_mark};
    ++list.dead;
    if (!core.closed) {
        if (s.index == list.size - 1) {
            list.resize(list.size - 1);
            --list.dead;
        }
        if (core.live == 0 || list.dead * 8 > list.size) {
            core.work |= work_compact;
            if (core.live == 0 || list.dead * 2 > list.size) {
                tidy(core);
            }
        }
    }
    discard(core, s);
}

void discard(channel_core& core, slot& s) noexcept {
    if (core.book == nullptr && (s.shape & shape_full) == 0) {
        core.words.give_back(s);
        return;
    }
    retain(core); // the state's destructor may end the channel
    if (core.book != nullptr) {
        leave_book(core, s);
    }
    if ((s.shape & shape_full) != 0) {
        destroy_state(s);
        core.fulls.give_back(s);
    } else {
        core.words.give_back(s);
    }
    release(core);
}

void destroy_state(slot& s) noexcept {
    if ((s.ops->traits & handler_is_word) == 0) {
        void* state = state_of(s);
        if (s.ops->destroy != nullptr) {
            s.ops->destroy(state);
        }
        if ((s.shape & shape_on_heap) != 0) {
            free_state_block(state, *s.ops);
        }
    }
    static_cast<full_slot&>(s).guard = {};
}

void tidy(channel_core& core) noexcept {
    core.work = (core.lists->next != nullptr ? work_stages : work_none) | (core.work & (work_keeps | work_noted));
    for (stage_list* list = core.lists; list != nullptr; list = list->next) {
        if (list->dead * 8 > list->size || list->dead == list->size) {
            list->compact();
        }
        if (list->size != 0) {
            core.work |= work_entries;
        }
    }
}

} // namespace courier::inline WIRED_COURIER_ABI::detail
