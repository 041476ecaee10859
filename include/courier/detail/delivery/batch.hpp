// Several payloads published together, as the channel sees them under way.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/detail/delivery/slot.hpp>
#include <courier/stage.hpp>

#include <cstddef>
#include <cstdint>

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
    const std::byte* first;
    std::size_t stride;
    const std::byte* now; ///< the payload being served
    std::size_t waiting;  ///< calls that were left out since handlers wait
    std::size_t settled;  ///< the same without those of the payload being served
    std::uint32_t depth;  ///< publishes around those of this batch
    batch* outer;
};

/// Whether the handler in `s` has to wait, since `payload` is one of a batch;
/// then the call is noted.
bool waits_for_batch(const slot& s, const void* payload) noexcept;

} // namespace detail
WIRED_COURIER_NAMESPACE_END
