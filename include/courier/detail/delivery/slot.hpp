// Where the cold part of a subscription lives. A slot never moves while its
// subscription is live, and its captured state outlives every call into it.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/turn.hpp>

#include <cstddef>
#include <cstdint>
#include <functional>
#include <source_location>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

struct channel_core;
struct slot;
struct stage_list;
struct party;

/// What the delivery loop calls: a handler's code with its state.
using invoke_fn = void (*)(void* state, const void* payload);

/// The same for a handler that takes several payloads side by side.
using span_fn = void (*)(void* state, const void* first, std::size_t count);

enum handler_trait : std::uint32_t {
    handler_is_word = 1,      ///< the whole handler is one trivially copyable word, kept in the hot entry
    handler_has_verdict = 2,  ///< is called with its slot instead of its state
    handler_takes_span = 4,   ///< takes a span; called with its slot, too
    handler_takes_slot = 8,   ///< called with its slot, which it may end
    handler_takes_posts = 16, ///< takes a span of payloads with their addresses; called with its slot, too
};

/// Those that are called with their slot.
inline constexpr std::uint32_t handlers_with_slots =
    handler_has_verdict | handler_takes_span | handler_takes_slot | handler_takes_posts;

/// One static table per handler type: all that differs between handlers.
struct handler_ops {
    invoke_fn invoke;
    span_fn invoke_span;                     ///< null for a handler that takes one payload
    void (*construct)(void* to, void* from); ///< moves the handler into its place
    void (*destroy)(void* state) noexcept;   ///< null when there is nothing to do
    void (*told)(slot& s) noexcept;          ///< of being paused, resumed or ended; null: need not be
    const void* module;                      ///< tells which program or shared library holds the code
    std::uint32_t size;
    std::uint32_t align;
    std::uint32_t traits;
};

/// Handlers of up to this many bytes are stored inside their slot; larger
/// ones take one allocation of their own.
inline constexpr std::size_t inline_state = 48;

enum slot_block : std::uint32_t {
    block_paused = 1,       ///< its subscription was paused
    block_owner_paused = 2, ///< its subscriber is paused
    block_ended = 4,        ///< waits for a running publish to end before it is freed
    block_free = 8,         ///< on the free list
};

enum slot_shape : std::uint32_t {
    no_shape = 0,
    shape_full = 1,    ///< has room for a handler and a guard
    shape_guarded = 2, ///< is called through its guard
    shape_on_heap = 4, ///< the handler's state has its own allocation
};

struct slot {
    slot* next;  ///< in the owner's list, the free list, or the list of those to be freed
    slot** back; ///< what points to this slot in the owner's list
    stage_list* list;
    party* owner;             ///< null for a subscription without a subscriber
    std::uint64_t born : 32;  ///< when it was subscribed, in numbers taken from one source
    std::uint64_t index : 24; ///< of its entry in the stage list
    std::uint64_t shape : 3;
    std::uint64_t blocked : 4;
    std::uint64_t to_all : 1; ///< on an addressed channel: subscribed at no address
    const handler_ops* ops;
    std::source_location where;
};

/// More subscriptions than this do not fit into one stage of one channel.
inline constexpr std::uint32_t most_entries = (1U << 24) - 1;

/// What a guard says of a payload: `served` when it holds, else why it does not. Of a null
/// pointer: whether its period runs.
using condition_fn = std::function<turn(const void*)>;

/// Delivery options that have to be looked at for every payload.
struct slot_guard {
    std::uint32_t times_left = 0; ///< 0: no limit
    condition_fn condition;
};

struct full_slot : slot {
    slot_guard guard; ///< of one that is guarded only
    alignas(std::max_align_t) std::byte state[inline_state];
};

/// Puts `s` at the head of the list that starts at `first`.
inline void link(slot& s, slot*& first) noexcept {
    s.next = first;
    s.back = &first;
    if (first != nullptr) {
        first->back = &s.next;
    }
    first = &s;
}

inline void unlink(slot& s) noexcept {
    if (s.back == nullptr) {
        return;
    }
    *s.back = s.next;
    if (s.next != nullptr) {
        s.next->back = s.back;
    }
    s.next = nullptr;
    s.back = nullptr;
}

struct address_part;

/// On an addressed channel: what lies behind the slot.
inline address_part& part_of(slot& s) noexcept {
    const std::size_t behind = (s.shape & shape_full) != 0 ? sizeof(full_slot) : sizeof(slot);
    return *reinterpret_cast<address_part*>(reinterpret_cast<std::byte*>(&s) + behind);
}

/// The captured state of a handler that is not a word in the hot entry.
inline void* state_of(slot& s) noexcept {
    auto& full = static_cast<full_slot&>(s);
    return (s.shape & shape_on_heap) != 0 ? *reinterpret_cast<void**>(full.state) : full.state;
}

/// What the handler of a slot that is no word in the hot entry is called with.
inline void* context_of(slot& s) noexcept {
    if ((s.ops->traits & handler_is_word) != 0) {
        return *static_cast<void**>(state_of(s));
    }
    return (s.ops->traits & handlers_with_slots) != 0 ? static_cast<void*>(&s) : state_of(s);
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
