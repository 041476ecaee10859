// What is where on a gateway.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

class gateway_core;
class http_server;

/// Everything that the server answers, which `core` has to outlive.
void set_routes(http_server& server, gateway_core& core);

} // namespace detail
WIRED_COURIER_NAMESPACE_END
