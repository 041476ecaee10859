// Payloads into bytes, as their fields are known.
#pragma once

#include "recording/write/packed.hpp"

#include <courier/detail/base/value_type.hpp>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

void pack_value(const value_type& type, const void* value, packed_bytes& to);

/// Without a tag in front: what it is is known.
void pack_fields(const field_table& table, const void* object, packed_bytes& to);

} // namespace detail
WIRED_COURIER_NAMESPACE_END
