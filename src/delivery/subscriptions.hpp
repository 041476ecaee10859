// Used between the compiled parts of the core, not by its headers.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/detail/delivery/channel_core.hpp>

#include <functional>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// Closes gaps where that pays and brings `work` up to date. Not while a
/// publish on this channel is in flight, except at its very end.
void tidy(channel_core& core) noexcept;

/// A subscription whose entry is gone gives its place up, which closes gaps as it pays. As above.
void leave_list(channel_core& core, const slot& s) noexcept;

/// Every channel of the process, for reports that concern them all.
void enter_registry(channel_core& core);
void leave_registry(channel_core& core) noexcept;

/// Channels of the calling thread, the newest first; under the registry's lock.
void each_channel_here(const std::function<void(channel_core&)>& visit);

} // namespace detail
WIRED_COURIER_NAMESPACE_END
