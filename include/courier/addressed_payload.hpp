// A payload with the address that it is for.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>

#include <optional>

WIRED_COURIER_NAMESPACE_BEGIN

/// A payload with its address. A system that serves many objects takes a span of these:
///
///     in.subscribe(bitten, [&](std::span<const courier::addressed_payload<Bitten, wyrm_id>> all) {
///         for (const auto& [to, bite] : all) { ... }
///     });
///
/// Subscribed to an addressed channel, it gets the posts of an outbox round for addresses in one piece,
/// in the order in which they were posted, where they lie: nothing is copied. Posts for everyone come in
/// between, one at a time, and so does what is published at once; each is a span of one, for which the
/// payload is copied. The rules for spans hold (docs/when.md, "Spans"). A plain value.
template <class Payload, class Address>
struct addressed_payload {
    std::optional<Address> to; ///< empty: for everyone, or for a group
    Payload payload;
};

WIRED_COURIER_NAMESPACE_END
