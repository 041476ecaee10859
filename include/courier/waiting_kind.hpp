// What holds payloads until the game calls for them.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>

#include <cstdint>

WIRED_COURIER_NAMESPACE_BEGIN

/// What sort of object payloads wait in.
enum class waiting_kind : std::uint8_t {
    outbox,    ///< until `deliver()`
    inbox,     ///< until `take_in()`
    timetable, ///< until `advance()`: payloads and calls
};

WIRED_COURIER_NAMESPACE_END
