// What becomes of payloads that pile up before they are delivered.
#pragma once

#include <courier/config.hpp>

#include <cstddef>
#include <cstdint>
#include <functional>

namespace courier::inline WIRED_COURIER_ABI {

/// Which of the payloads that are posted on one channel wait for the round.
enum class keep : std::uint8_t {
    all,             ///< every one
    one,             ///< one: the latest, or what `merge` makes of them
    one_per_address, ///< the same for each address; on a channel without addresses, `one`
};

/// What happens to a payload when `most` of them wait already.
enum class when_full : std::uint8_t {
    refuse,      ///< the new one is not taken, and `post()` says so
    drop_oldest, ///< the one that has waited longest gives way
};

/// How payloads wait, written as `{.waiting = courier::keep::one}`.
template <class Payload>
struct posting {
    keep waiting = keep::all;

    /// With `keep::one` and `keep::one_per_address`: makes one of the payload
    /// that waits and the newer one, such as by adding them up. When empty,
    /// the newer one takes the place of the older.
    std::function<void(Payload& kept, const Payload& newer)> merge = {};

    /// How many may wait; 0 is no bound. What was refused or dropped is
    /// counted.
    std::size_t most = 0;
    when_full full = when_full::refuse;
};

} // namespace courier::inline WIRED_COURIER_ABI
