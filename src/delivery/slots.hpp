// How a subscription's slot is made, and what the loops run for it.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/detail/delivery/channel_core.hpp>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// A slot with everything in it but its place in the list and the book.
slot& make_slot(channel_core& core, attach_request& request);

/// Enters it into the channel's book of addresses; needs no memory any more.
void enter_book(channel_core& core, slot& s, const address_request* at) noexcept;

/// Destroys a detached slot's state and gives its memory back. The state's
/// destructor may do anything, ending the channel included.
void discard(channel_core& core, slot& s) noexcept;

/// Destroys what a full slot holds: handler and guard. The guard is left empty.
void destroy_state(slot& s) noexcept;

/// What the loops call for it, and with what.
invoke_fn run_of(const slot& s) noexcept;
void* hot_state(slot& s, void* handler) noexcept;

} // namespace detail
WIRED_COURIER_NAMESPACE_END
