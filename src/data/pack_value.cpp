// SPDX-License-Identifier: MIT
#include "data/pack_value.hpp"

#include "data/schema.hpp"

#include <array>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

void pack_text(std::string_view text, packed_bytes& to) {
    if (text.data() == nullptr) {
        to.put(tag::null);
        return;
    }
    to.put(tag::text);
    to.put_text(text);
}

void pack_enumeration(const value_type& type, const void* value, packed_bytes& to) {
    const std::int64_t number = read_plain(type, value).integer;
    if (const std::string_view name = name_of_value(type, number); !name.empty()) {
        pack_text(name, to);
    } else {
        to.put(tag::integer, number);
    }
}

void pack_list(const value_type& type, const void* list, packed_bytes& to, int depth) {
    struct items {
        const value_type& type;
        packed_bytes& to;
        int depth;
    } each{*type.inner, to, depth};
    to.put(tag::list, static_cast<std::uint32_t>(type.count(list)));
    type.each(list, &each, [](void* context, const void* item) {
        const auto& known = *static_cast<const items*>(context);
        pack_value(known.type, item, known.to, known.depth);
    });
}

} // namespace

void pack_value(const value_type& type, const void* value, packed_bytes& to, int depth) {
    switch (type.kind) {
    case value_kind::truth:
        to.put(*static_cast<const bool*>(value) ? tag::yes : tag::no);
        return;
    case value_kind::integer:
        to.put(tag::integer, read_plain(type, value).integer);
        return;
    case value_kind::natural:
        to.put(tag::natural, read_plain(type, value).natural);
        return;
    case value_kind::real:
    case value_kind::duration:
        to.put(tag::real, read_plain(type, value).real);
        return;
    case value_kind::enumeration:
        pack_enumeration(type, value, to);
        return;
    case value_kind::text:
        pack_text(type.text(value), to);
        return;
    case value_kind::object:
        if (depth > deepest_schema) {
            to.put(tag::null);
            return;
        }
        to.put(tag::object);
        pack_fields(*type.fields, value, to, depth);
        return;
    case value_kind::optional:
        if (const void* const held = type.held(value); held != nullptr) {
            pack_value(*type.inner, held, to, depth);
        } else {
            to.put(tag::null);
        }
        return;
    case value_kind::list:
        pack_list(type, value, to, depth);
        return;
    case value_kind::other:
        to.put(tag::null);
        return;
    }
}

void pack_fields(const field_table& table, const void* object, packed_bytes& to, int depth) {
    constexpr std::size_t few = 64;
    std::array<const void*, few> fields; // NOLINT(cppcoreguidelines-pro-type-member-init): written by locate
    std::vector<const void*> many;
    const void** at = fields.data();
    if (table.entries.size() > few) {
        many.resize(table.entries.size());
        at = many.data();
    }
    table.locate(object, at);
    for (const field_entry& entry : table.entries) {
        pack_value(*entry.type, *at++, to, depth + 1);
    }
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
