// Other processes at the same broker, as they come and go.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>

#include <cstdint>
#include <string>

WIRED_COURIER_NAMESPACE_BEGIN

/// What became of another process.
enum class peer_news : std::uint8_t {
    came,
    left, ///< of its own accord
    died, ///< without a word, longer ago than `ferry_options::absence`
};

/// Published by `ferry::peers()`; also for the processes that were there before this one.
struct peer_changed {
    std::string process;
    std::string run; ///< a process that comes back has another one
    peer_news news = peer_news::came;
};

WIRED_COURIER_NAMESPACE_END
