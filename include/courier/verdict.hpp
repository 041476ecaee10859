// What a handler may return to keep others from being served.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>

#include <cstdint>

WIRED_COURIER_NAMESPACE_BEGIN

/// A handler that returns nothing always lets the rest go on.
enum class verdict : std::uint8_t {
    go_on,        ///< the rest is served
    finish_stage, ///< the rest of this stage is served, later stages are not
    stop,         ///< nobody after this handler is served
};

WIRED_COURIER_NAMESPACE_END
