// Several payloads published together, as the channel sees them under way.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/detail/delivery/slot.hpp>
#include <courier/stage.hpp>

#include <cstddef>
#include <cstdint>
#include <source_location>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// One payload of a batch that a verdict stopped.
struct stop_mark {
    std::size_t payload; ///< its number in the batch
    stage place;         ///< of the handler that stopped it
    std::uint32_t born;  ///< when that was subscribed; with `whole_stage` not looked at
    bool whole_stage;    ///< its stage was served to the end
};

/// A batch whose payloads are being served one by one; handlers that take
/// spans have to wait.
struct batch {
    const std::byte* first; ///< payload
    std::size_t stride;
    handler_trait served_late; ///< who has to wait: handlers that take spans of payloads, or of those with addresses
    const std::byte* now;      ///< the payload being served
    std::size_t waiting;       ///< calls that were left out since handlers wait
    std::size_t settled;       ///< the same without those of the payload being served
    std::uint32_t depth;       ///< publishes around those of this batch
    batch* outer;
};

/// What one outbox round holds for addresses of a channel, without its types.
struct posts {
    const std::byte* first; ///< the first of them
    std::size_t count;
    std::size_t stride;
    std::size_t payload_at; ///< how far behind the beginning of each its payload lies
};

/// Serves them one by one, by `deliver_one(whose, i)`, to handlers that take one, and then together to those that
/// take several. `deliver_one` may throw for each.
void deliver_posts(channel_core& core, const posts& of, std::source_location where,
                   void (*deliver_one)(void* whose, std::size_t i), void* whose);

/// Whether the handler in `s` has to wait, since `payload` is one of a batch;
/// then the call is noted.
bool waits_for_batch(const slot& s, const void* payload) noexcept;

} // namespace detail
WIRED_COURIER_NAMESPACE_END
