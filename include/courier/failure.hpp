// What a failure handler receives about a handler that threw.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>

#include <exception>
#include <functional>
#include <source_location>
#include <string_view>

WIRED_COURIER_NAMESPACE_BEGIN

/// A handler that threw. The views are valid during the call only.
struct failure {
    std::exception_ptr error;
    std::string_view channel;
    std::string_view subscriber; ///< empty without a named subscriber
    std::source_location where;  ///< where the handler was subscribed
};

/// Called once for every handler that threw, in the middle of the publish and
/// before the next handler is served. It may do whatever a handler may. What
/// it throws itself reaches the publisher after all are served.
using failure_handler = std::function<void(const failure&)>;

WIRED_COURIER_NAMESPACE_END
