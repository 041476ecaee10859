// Names of channels that are found through the hub.
#pragma once

#include "payloads.hpp"

#include <courier/channel_name.hpp>

namespace reef {

inline constexpr courier::channel_name<Hailed> hails{"harbour.hails"};

} // namespace reef
