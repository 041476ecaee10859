// Between subscribers and what they follow.
#pragma once

#include <courier/detail/delivery/followers.hpp>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// Subscribers that are made on this thread follow these; null: none.
extern constinit thread_local followers* making_for;

/// To be called when a subscriber has become silent, or is so no more.
void silence(party& who) noexcept;
void unsilence(party& who) noexcept;
void end_all_of(party& who) noexcept;

} // namespace detail
WIRED_COURIER_NAMESPACE_END
