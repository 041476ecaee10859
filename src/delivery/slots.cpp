// SPDX-License-Identifier: MIT
#include "delivery/slots.hpp"

#include <courier/detail/base/in_use.hpp>
#include <courier/detail/delivery/flight.hpp>

#include <cstring>
#include <new>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

bool fits_inline(const handler_ops& ops) noexcept {
    return ops.size <= inline_state && ops.align <= alignof(std::max_align_t);
}

void free_state_block(void* state, const handler_ops& ops) noexcept {
    ::operator delete(state, std::align_val_t{ops.align});
}

// Fills a slot with room for state: the guard first, then the handler.
void build_full(full_slot& s, const attach_request& request) {
    const handler_ops& ops = *request.ops;
    if (request.guard != nullptr) {
        ::new (&s.guard) slot_guard(std::move(*request.guard));
    }
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

void empty_guard(slot& s) noexcept {
    if ((s.shape & shape_guarded) != 0) {
        static_cast<full_slot&>(s).guard = {};
    }
}

void clear_part(const channel_core& core, slot& s) noexcept {
    part_of(s).self = nullptr;
    if (core.book->keyed()) {
        static_cast<keyed_part&>(part_of(s)).address = nullptr;
    }
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

} // namespace

void enter_book(channel_core& core, slot& s, const address_request* at) noexcept {
    address_part& part = part_of(s);
    part.hot = s.list->entries[s.index];
    part.self = &s;
    if (at != nullptr && core.book->keyed()) {
        static_cast<keyed_part&>(part).address = at->address;
    }
    core.book->link(part, at);
}

slot& make_slot(channel_core& core, const attach_request& request) {
    const bool guarded = request.guard != nullptr;
    const bool word = (request.ops->traits & handler_is_word) != 0;
    // A word needs no room of its own; reserved full slots serve it as well.
    const bool full = guarded || !word || (!core.words.has_free() && core.fulls.has_free());
    slot& s = full ? core.fulls.take() : core.words.take();
    s.ops = request.ops;
    s.back = nullptr;
    s.owner = request.whose.owner;
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
            empty_guard(s);
            core.fulls.give_back(s);
            throw;
        }
#else
        build_full(static_cast<full_slot&>(s), request);
#endif
    }
    return s;
}

void discard(channel_core& core, slot& s) noexcept {
    if (core.book == nullptr && (s.shape & ~static_cast<std::uint32_t>(shape_full)) == 0 && s.ops->destroy == nullptr) {
        ((s.shape & shape_full) != 0 ? core.fulls : core.words).give_back(s); // which runs no code of the user's
        return;
    }
    const held until_then(core); // the state's destructor may end the channel
    if (core.book != nullptr) {
        leave_book(core, s);
    }
    if ((s.shape & shape_full) != 0) {
        destroy_state(s);
        core.fulls.give_back(s);
    } else {
        core.words.give_back(s);
    }
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
    empty_guard(s);
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
