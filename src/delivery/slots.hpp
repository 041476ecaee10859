// How a subscription's slot is made, and what the loops run for it.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/detail/delivery/channel_core.hpp>
#include <courier/detail/delivery/flight.hpp>

#include <cstring>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// A slot with everything in it but its place in the list and the book.
slot& make_slot(channel_core& core, const attach_request& request);

/// Enters it into the channel's book of addresses; needs no memory any more.
void enter_book(channel_core& core, slot& s, const address_request* at) noexcept;

/// Destroys a detached slot's state and gives its memory back. The state's
/// destructor may do anything, ending the channel included.
void discard(channel_core& core, slot& s) noexcept;

/// Destroys what a full slot holds: handler and guard.
void destroy_state(slot& s) noexcept;

/// What the loops call for it, and with what.
inline invoke_fn run_of(const slot& s) noexcept {
    return (s.shape & shape_guarded) != 0 ? &run_guarded : s.ops->invoke;
}
inline void* hot_state(slot& s, void* handler) noexcept {
    if ((s.shape & shape_guarded) != 0) {
        return &s;
    }
    if ((s.ops->traits & handler_is_word) != 0) {
        void* word = nullptr;
        std::memcpy(&word, handler, sizeof word);
        return word;
    }
    return context_of(s);
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
