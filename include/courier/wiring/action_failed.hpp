// An action of a wire that came to nothing.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>

#include <string>

WIRED_COURIER_NAMESPACE_BEGIN

/// What `wiring::failed()` publishes.
struct action_failed {
    std::string wire;   ///< its name, or "wire harbour.toml:12"
    std::string action; ///< its name
    std::string why;    ///< as its function said, or that its object is not there, or a value did not fit
};

WIRED_COURIER_NAMESPACE_END
