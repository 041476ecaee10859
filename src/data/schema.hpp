// The names of fields, apart from their types, whose module may be gone when values are written.
// SPDX-License-Identifier: MIT
#pragma once

#include "data/described.hpp"

#include <courier/detail/base/value_type.hpp>

#include <string>
#include <string_view>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// A field, for as long as its module is there.
struct schema_field {
    std::string_view name;
    std::vector<schema_field> inside;

    template <class Self, class With>
    static void data(Self& self, With& with) {
        with(field{"name"}, self.name);
        with(field{"inside"}, self.inside);
    }
};
/// Structs inside of one another, below the outermost, since one may hold a list of its own kind.
inline constexpr int deepest_schema = 16;
/// The fields of a struct, and of those in it down to `deepest_schema`.
[[nodiscard]] std::vector<schema_field> field_names_of(const field_table& table);

/// A copy of a field's names.
struct schema_node {
    std::string name;  ///< as a key: quoted and escaped, with a colon
    std::string plain; ///< as it is
    std::vector<schema_node> inside;
};
[[nodiscard]] std::vector<schema_node> nodes_of(const std::vector<schema_field>& fields);
[[nodiscard]] std::vector<schema_node> nodes_of(const field_table& table);
/// Of a value that has no name.
[[nodiscard]] schema_node node_of(const value_type& type);

} // namespace detail
WIRED_COURIER_NAMESPACE_END
