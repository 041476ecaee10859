// Used between the compiled parts of the core, not by its headers.
#pragma once

#include <courier/detail/channel_core.hpp>

#include <functional>

namespace courier::inline WIRED_COURIER_ABI::detail {

/// Destroys a detached slot's state and gives its memory back. The state's
/// destructor may do anything, ending the channel included.
void discard(channel_core& core, slot& s) noexcept;

/// Destroys what a full slot holds: handler and guard. The guard is left empty.
void destroy_state(slot& s) noexcept;

/// Closes gaps where that pays and brings `work` up to date. Not while a
/// publish on this channel is in flight, except at its very end.
void tidy(channel_core& core) noexcept;

/// Makes the relays that forward from a channel know that it is gone.
void cut_relays(channel_core& core) noexcept;

/// Every channel of the process, for reports that concern them all.
void enter_registry(channel_core& core);
void leave_registry(channel_core& core) noexcept;

/// Channels of the calling thread, the newest first; under the registry's lock.
void each_channel_here(const std::function<void(channel_core&)>& visit);

} // namespace courier::inline WIRED_COURIER_ABI::detail
