// Packed values as JSON, by their schema.
// SPDX-License-Identifier: MIT
#pragma once

#include "data/packed.hpp"
#include "data/schema.hpp"

#include <fmt/format.h>

#include <cstdint>
#include <string_view>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

void write_text(fmt::memory_buffer& to, std::string_view plain);
void write_number(fmt::memory_buffer& to, std::uint64_t plain);
inline void write_raw(fmt::memory_buffer& to, std::string_view raw) {
    to.append(raw.data(), raw.data() + raw.size());
}

/// The next value in `in`; `known` is what is known of its fields, or null.
void write_value(fmt::memory_buffer& to, packed_reader& in, const schema_node* known);
/// The same for the fields of a struct, which have no tag in front.
void write_fields(fmt::memory_buffer& to, packed_reader& in, const std::vector<schema_node>& known);

} // namespace detail
WIRED_COURIER_NAMESPACE_END
