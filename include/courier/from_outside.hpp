// What happens while it lives comes from outside the game.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/detail/delivery/oversight.hpp>

WIRED_COURIER_NAMESPACE_BEGIN

/// While it lives, payloads published or posted on this thread count as coming
/// from outside the game: input, messages from a server. A replay feeds that in
/// from the recording, and the game must not read it then; see
/// courier/replay.hpp. What comes through an inbox is from outside in any case.
class from_outside {
public:
    from_outside() noexcept : outside_(detail::this_oversight.unusual.outside, true) {}

private:
    detail::meanwhile<bool> outside_;
};

WIRED_COURIER_NAMESPACE_END
