// Whole answers, as the HTTP library takes them.
// SPDX-License-Identifier: MIT
#pragma once

#include "gateway/ask/reply.hpp"
#include "gateway/gateway_core.hpp"

#include <courier/config.hpp>

#include <httplib.h>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// A gateway_code is counted.
void send(gateway_core& core, httplib::Response& response, const reply& what);

/// What the counters say, as OpenMetrics text.
[[nodiscard]] reply metrics_of(gateway_core& core);
/// What the audit says of the run so far.
[[nodiscard]] reply findings_of(gateway_core& core);
/// What there is on this gateway, for the page.
[[nodiscard]] reply about(gateway_core& core);
[[nodiscard]] reply catalogue_of(gateway_core& core);

/// Sends a file of the user's piece by piece, or a refusal: nothing outside of the folder is there.
void send_file(gateway_core& core, httplib::Response& response, const std::string& path);

} // namespace detail
WIRED_COURIER_NAMESPACE_END
