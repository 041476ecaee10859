// What becomes of payloads that pile up before they are delivered.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/unbounded.hpp>

#include <cstddef>
#include <cstdint>
#include <functional>

WIRED_COURIER_NAMESPACE_BEGIN

/// Which of the payloads that are posted on one channel wait for the round.
enum class keep : std::uint8_t {
    all,             ///< every one
    one,             ///< one: the latest, or what `combine` makes of them
    one_per_address, ///< the same for each address; on a channel without addresses, `one`
};

/// What happens to a payload when `limit` of them wait already.
enum class when_full : std::uint8_t {
    turn_away,   ///< the new one is not taken, and `post()` says so
    drop_oldest, ///< the one that has waited longest gives way
};

/// How payloads wait, written as `{.keep = courier::keep::one}`.
template <class Payload>
struct posting_options {
    courier::keep keep = courier::keep::all;

    /// With `keep::one` and `keep::one_per_address`: makes one of the payload
    /// that waits and the newer one, such as by adding them up. When empty,
    /// the newer one takes the place of the older.
    /// May do anything, also post through its own poster; that is combined when it
    /// has returned. What it throws, `post()` throws.
    std::function<void(Payload& kept, const Payload& newer)> combine = {};

    /// How many may wait. Those that are turned away or dropped are counted.
    std::size_t limit = detail::unbounded_size;
    courier::when_full when_full = courier::when_full::turn_away;
};

WIRED_COURIER_NAMESPACE_END
