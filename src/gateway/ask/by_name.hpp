// Payloads and actions that requests name. On the game's thread.
// SPDX-License-Identifier: MIT
#pragma once

#include "gateway/ask/reply.hpp"

#include <courier/config.hpp>
#include <courier/wiring/console.hpp>

#include <nlohmann/json.hpp>

#include <string>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// Publishes the payload that `body` has the fields of.
[[nodiscard]] reply publish_by_name(const console& by, const std::string& channel, const std::string& at,
                                    const std::string& body);
/// Calls an action: `body` has its "parameters", and "at" which object.
[[nodiscard]] reply call_by_name(const console& by, const std::string& action, const nlohmann::json& body);

} // namespace detail
WIRED_COURIER_NAMESPACE_END
