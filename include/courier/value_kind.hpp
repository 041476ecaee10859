// What kinds of values fields are.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>

#include <cstdint>

WIRED_COURIER_NAMESPACE_BEGIN

/// What sort of value a field holds.
enum class value_kind : std::uint8_t {
    truth,
    integer,
    natural, ///< a whole number without a sign
    real,
    enumeration,
    text,
    duration,
    object, ///< a struct with fields
    optional,
    list,
    other, ///< of which nothing is known
};

WIRED_COURIER_NAMESPACE_END
