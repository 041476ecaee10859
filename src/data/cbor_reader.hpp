// CBOR (RFC 8949) from outside, as what a JSON text would be.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>

#include <nlohmann/json.hpp>

#include <string_view>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// Discarded (`is_discarded()`) when the bytes are not one item of CBOR, or nest more than
/// 32 deep.
[[nodiscard]] nlohmann::json parsed_cbor(std::string_view bytes);

} // namespace detail
WIRED_COURIER_NAMESPACE_END
