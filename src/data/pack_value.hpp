// Payloads into bytes, as their fields are known.
// SPDX-License-Identifier: MIT
#pragma once

#include "data/packed.hpp"

#include <courier/detail/base/value_type.hpp>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// Structs of their own kind that nest deeper than a schema goes, which `depth` counts, are null.
void pack_value(const value_type& type, const void* value, packed_bytes& to, int depth = 0);

/// Without a tag in front: what it is is known.
void pack_fields(const field_table& table, const void* object, packed_bytes& to, int depth = 0);

} // namespace detail
WIRED_COURIER_NAMESPACE_END
