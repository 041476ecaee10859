// Relays as channels know them, and how circles of them are found.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/detail/base/in_use.hpp>
#include <courier/detail/delivery/channel_core.hpp>

#include <source_location>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// One relay, as its source channel knows it.
struct relay_link {
    held<channel_core> to;
    std::source_location where;
    bool deferred; ///< through an outbox
    relay_link* next;
    relay_link** back; ///< null when the source channel is gone
};

/// Null when it was refused, since it would close a circle.
relay_link* add_relay(channel_core& from, channel_core& to, std::source_location where, bool deferred);

struct remove_relay {
    void operator()(relay_link* link) const noexcept;
};

/// Makes the relays that forward from a channel know that it is gone.
void cut_relays(channel_core& core) noexcept;

} // namespace detail
WIRED_COURIER_NAMESPACE_END
