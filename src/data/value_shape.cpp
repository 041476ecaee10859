// SPDX-License-Identifier: MIT
#include <courier/data/detail/shape.hpp>

#include <courier/detail/base/type_name.hpp>

#include <limits>

WIRED_COURIER_NAMESPACE_BEGIN

bool operator==(const value_shape& a, const value_shape& b) {
    return a.kind == b.kind && a.type == b.type && a.least == b.least && a.most == b.most && a.values == b.values &&
           a.fields == b.fields && a.inner == b.inner;
}

bool operator==(const named_shape& a, const named_shape& b) {
    return a.name == b.name && a.shape == b.shape && a.has_default == b.has_default;
}

namespace detail {

namespace {

constexpr int deepest_struct = 8; ///< structs inside of structs

value_shape shape_at(const value_type& type, int depth, bool to_fill);

std::vector<named_shape> shapes_of(const field_table& table, int depth, bool to_fill) {
    std::vector<named_shape> all;
    for (const field_entry& entry : table.entries) {
        all.push_back({std::string(entry.name), shape_at(*entry.type, depth + 1, to_fill), entry.has_default});
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

std::string range_in_words(const value_shape& shape) {
    return "a whole number from " + std::to_string(shape.least) + " to " + std::to_string(shape.most);
}

std::string list_of(const std::vector<std::string>& names, std::size_t most) {
    std::string made;
    for (std::size_t i = 0; i < names.size() && i < most; ++i) {
        made += (i == 0 ? "" : ", ") + names[i];
    }
    return names.size() > most ? made + " and " + std::to_string(names.size() - most) + " more" : made;
}

namespace {

std::vector<std::string> names_of_fields(const value_shape& shape) {
    std::vector<std::string> all;
    all.reserve(shape.fields.size());
    for (const named_shape& one : shape.fields) {
        all.push_back(one.name);
    }
    return all;
}

} // namespace

std::string kind_in_words(const value_shape& shape) {
    switch (shape.kind) {
    case value_kind::truth:
        return "true or false";
    case value_kind::integer:
        return shape.most >= static_cast<std::uint64_t>(std::numeric_limits<std::int32_t>::max())
                   ? "a whole number"
                   : range_in_words(shape);
    case value_kind::natural:
        return shape.most >= std::numeric_limits<std::uint32_t>::max() ? "a whole number from 0 on"
                                                                       : range_in_words(shape);
    case value_kind::real:
        return "a number";
    case value_kind::enumeration:
        return shape.values.empty() ? "a value of an enumeration without names"
                                    : "one of " + list_of(shape.values, most_listed);
    case value_kind::text:
        return "a text";
    case value_kind::duration:
        return "a time in seconds";
    case value_kind::object:
        return "a table with " + list_of(names_of_fields(shape), most_listed);
    case value_kind::optional:
        return shape.inner.empty() ? "nothing" : kind_in_words(shape.inner.front());
    case value_kind::list:
        return "a list";
    default:
        return "of an unknown type";
    }
}

} // namespace detail

std::string in_words(const value_shape& shape) {
    const bool may_be_missing = shape.kind == value_kind::optional && !shape.inner.empty();
    const value_shape& held = may_be_missing ? shape.inner.front() : shape;
    const std::string words = held.kind == value_kind::enumeration && !held.values.empty()
                                  ? "one of " + detail::list_of(held.values, held.values.size())
                                  : detail::kind_in_words(held);
    return may_be_missing ? words + ", or nothing" : words;
}

WIRED_COURIER_NAMESPACE_END
