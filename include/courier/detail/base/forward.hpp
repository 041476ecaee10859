// Names of classes that a header mentions without needing to know them.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>

WIRED_COURIER_NAMESPACE_BEGIN

template <class Payload>
class channel;
template <class Payload, class Address = typename Payload::address>
class addressed_channel;
template <class Address>
class group;
class outbox;

namespace detail {

struct outbox_core;
void retain(outbox_core& box) noexcept;
void release(outbox_core& box) noexcept;

/// The part of an outbox that holds its payloads.
[[nodiscard]] outbox_core* core_of(outbox& box) noexcept;

} // namespace detail
WIRED_COURIER_NAMESPACE_END
