// What can happen to one item of a list or map.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>

#include <cstdint>

WIRED_COURIER_NAMESPACE_BEGIN

/// What became of an item of a list or map.
enum class item_change : std::uint8_t { added, removed, changed };

WIRED_COURIER_NAMESPACE_END
