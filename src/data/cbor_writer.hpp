// Packed values as CBOR (RFC 8949), by their schema.
// SPDX-License-Identifier: MIT
#pragma once

#include "data/packed.hpp"
#include "data/schema.hpp"

#include <string>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// A map from the names of the fields, in their shortest form.
[[nodiscard]] std::string cbor_of(packed_reader& in, const std::vector<schema_node>& known);

} // namespace detail
WIRED_COURIER_NAMESPACE_END
