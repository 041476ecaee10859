// What can happen to one item of a list or map.
#pragma once

#include <courier/config.hpp>

#include <cstdint>

namespace courier::inline WIRED_COURIER_ABI {

enum class item_change : std::uint8_t { added, removed, changed };

} // namespace courier::inline WIRED_COURIER_ABI
