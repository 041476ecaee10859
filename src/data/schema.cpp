// SPDX-License-Identifier: MIT
#include "data/schema.hpp"

#include "data/json_text.hpp"

#include <cstddef>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

/// Of a struct, of what may be there, or of a list's items.
const field_table* fields_inside(const value_type& type) {
    return type.kind == value_kind::optional || type.kind == value_kind::list ? fields_inside(*type.inner)
                                                                              : type.fields;
}

std::vector<schema_field> schema_at(const field_table& table, int depth) {
    std::vector<schema_field> all(table.entries.size());
    for (std::size_t i = 0; i < all.size(); ++i) {
        const field_entry& entry = table.entries[i];
        const field_table* const inside = fields_inside(*entry.type);
        all[i].name = entry.name;
        if (inside != nullptr && depth < deepest_schema) {
            all[i].inside = schema_at(*inside, depth + 1);
        }
    }
    return all;
}

} // namespace

std::vector<schema_field> field_names_of(const field_table& table) {
    return schema_at(table, 0);
}

std::vector<schema_node> nodes_of(const std::vector<schema_field>& fields) {
    std::vector<schema_node> all;
    all.reserve(fields.size());
    for (const schema_field& one : fields) {
        all.push_back({quoted_json(one.name) + ":", std::string(one.name), nodes_of(one.inside)});
    }
    return all;
}

std::vector<schema_node> nodes_of(const field_table& table) {
    return nodes_of(field_names_of(table));
}

schema_node node_of(const value_type& type) {
    const field_table* const inside = fields_inside(type);
    return {{}, {}, inside != nullptr ? nodes_of(*inside) : std::vector<schema_node>()};
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
