// Between subscribers and what they follow.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/detail/base/in_use.hpp>
#include <courier/detail/delivery/followers.hpp>

#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

struct follower {
    held<party> who;
    bool is_made_inside;
};

struct follower_list {
    std::vector<follower> each; ///< at most half of them have ended
};

/// Subscribers that are made on this thread follow these; null: none.
extern constinit thread_local followers* making_for;

/// Levels of this thread that are being torn down.
extern constinit thread_local unsigned ending_levels;

/// To be called when a subscriber has become silent, or is so no more.
void silence(party& who) noexcept;
void unsilence(party& who) noexcept;
void end_all_of(party& who) noexcept;

} // namespace detail
WIRED_COURIER_NAMESPACE_END
