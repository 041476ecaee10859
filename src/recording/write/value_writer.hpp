// Packed values as JSON, by their schema.
#pragma once

#include "recording/records.hpp"

#include "recording/write/packed.hpp"
#include <courier/detail/base/value_type.hpp>

#include <fmt/format.h>

#include <cstdint>
#include <string>
#include <string_view>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// A copy, since the module that it is from may go.
struct schema_node {
    std::string name;  ///< as a key: quoted and escaped, with a colon
    std::string plain; ///< as it is
    std::vector<schema_node> inside;
};

/// The names of a table's fields, for as long as its module is there.
[[nodiscard]] std::vector<schema_field> schema_of_table(const field_table& table, int depth = 0);
[[nodiscard]] std::vector<schema_node> nodes_of(const std::vector<schema_field>& fields);

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
