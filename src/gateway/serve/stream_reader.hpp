// One reader of a stream.
// SPDX-License-Identifier: MIT
#pragma once

#include "gateway/ask/reply.hpp"
#include "gateway/gateway_core.hpp"

#include <courier/config.hpp>

#include <httplib.h>

#include <string>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// Answers with server-sent events (https://html.spec.whatwg.org/multipage/server-sent-events.html):
/// of the channels that the request names, or of all.
void answer_with_values(gateway_core& core, const httplib::Request& request, httplib::Response& response);
/// The latest value under that name, if one is kept.
[[nodiscard]] reply value_of(gateway_core& core, const std::string& name);
/// The same with the lines of the run.
void answer_with_run(gateway_core& core, const httplib::Request& request, httplib::Response& response);

} // namespace detail
WIRED_COURIER_NAMESPACE_END
