#include <courier/wiring/catalogue.hpp>
#include <courier/wiring/detail/shape.hpp>

#include <courier/detail/base/type_name.hpp>

#include <algorithm>
#include <limits>

WIRED_COURIER_NAMESPACE_BEGIN

bool operator==(const value_shape& a, const value_shape& b) {
    return a.kind == b.kind && a.type == b.type && a.least == b.least && a.most == b.most && a.values == b.values &&
           a.fields == b.fields && a.inner == b.inner;
}

bool operator==(const named_shape& a, const named_shape& b) {
    return a.name == b.name && a.shape == b.shape;
}

namespace {

template <class Entries>
auto* entry_named(const Entries& entries, std::string_view name) noexcept {
    const auto found = std::find_if(entries.begin(), entries.end(), [&](const auto& e) { return e.name == name; });
    return found != entries.end() ? &*found : nullptr;
}

} // namespace

const channel_entry* catalogue::channel(std::string_view name) const noexcept {
    return entry_named(channels, name);
}

const action_entry* catalogue::action(std::string_view name) const noexcept {
    return entry_named(actions, name);
}

namespace detail {

namespace {

constexpr int deepest_struct = 8; ///< structs inside of structs

value_shape shape_at(const value_type& type, int depth, bool to_fill);

std::vector<named_shape> shapes_of(const field_table& table, int depth, bool to_fill) {
    std::vector<named_shape> all;
    for (const field_entry& entry : table.entries) {
        all.push_back({std::string(entry.name), shape_at(*entry.type, depth + 1, to_fill)});
    }
    return all;
}

value_shape shape_at(const value_type& type, int depth, bool to_fill) {
    value_shape made;
    made.kind = depth <= deepest_struct ? type.kind : value_kind::other; // a struct may hold a list of its own kind
    if (to_fill && (!type.can_write || type.borrows)) {
        made.kind = value_kind::other;
    }
    switch (made.kind) {
    case value_kind::integer:
        made.most = static_cast<std::uint64_t>(std::numeric_limits<std::int64_t>::max()) >> (64 - 8 * type.size);
        made.least = -static_cast<std::int64_t>(made.most) - 1;
        break;
    case value_kind::natural:
        made.most = std::numeric_limits<std::uint64_t>::max() >> (64 - 8 * type.size);
        break;
    case value_kind::enumeration:
        made.type = plain_type_name(type.name);
        for (const enum_value& one : type.values) {
            made.values.emplace_back(one.name);
        }
        break;
    case value_kind::object:
        made.type = plain_type_name(type.name);
        made.fields = shapes_of(*type.fields, depth, to_fill);
        break;
    case value_kind::optional:
    case value_kind::list:
        made.inner.push_back(shape_at(*type.inner, depth + 1, to_fill));
        break;
    default:
        break;
    }
    return made;
}

} // namespace

value_shape shape_of(const value_type& type) {
    return shape_at(type, 0, false);
}

value_shape shape_of(const field_table* fields, std::string_view type, bool to_fill) {
    value_shape made;
    made.kind = value_kind::object;
    made.type = plain_type_name(type);
    if (fields != nullptr) {
        made.fields = shapes_of(*fields, 0, to_fill);
    }
    return made;
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
