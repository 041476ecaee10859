// Whole answers, as the HTTP library takes them.
// SPDX-License-Identifier: MIT
#pragma once

#include "gateway/ask/reply.hpp"
#include "gateway/gateway_core.hpp"

#include <courier/config.hpp>

#include <httplib.h>

#include <cstdint>

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
/// As data for other tools, as a module for pages, and as that module's types.
enum class catalogue_form : std::uint8_t { document, script, types };
[[nodiscard]] reply catalogue_of(gateway_core& core, catalogue_form form);

/// Sends a file of the user's piece by piece, or a refusal: nothing outside of the folder is there.
void send_file(gateway_core& core, httplib::Response& response, const std::string& path);

} // namespace detail
WIRED_COURIER_NAMESPACE_END
