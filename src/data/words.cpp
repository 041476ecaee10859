// SPDX-License-Identifier: MIT
#include "data/words.hpp"

#include <fmt/format.h>

#include <cstddef>
#include <iterator>
#include <utility>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

/// A struct inside of something else is in parentheses.
void put_inside(const value_type& type, const void* value, std::string& to) {
    const void* const held = type.kind == value_kind::optional ? type.held(value) : nullptr;
    if (held != nullptr) {
        put_inside(*type.inner, held, to);
        return;
    }
    const bool is_struct = type.kind == value_kind::object;
    to += is_struct ? "(" : "";
    put_words(type, value, to);
    to += is_struct ? ")" : "";
}

void put_items(const value_type& type, const void* list, std::string& to) {
    struct items {
        const value_type& type;
        std::string& to;
        bool is_first = true;
    } all{*type.inner, to};
    to += "[";
    type.each(list, &all, [](void* context, const void* item) {
        auto& known = *static_cast<items*>(context);
        known.to += std::exchange(known.is_first, false) ? "" : ", ";
        put_inside(known.type, item, known.to);
    });
    to += "]";
}

} // namespace

void put_fields(const field_table& table, const void* object, std::string& to) {
    std::vector<const void*> places(table.entries.size());
    table.locate(object, places.data());
    for (std::size_t i = 0; i < places.size(); ++i) {
        const field_entry& field = table.entries[i];
        to += i == 0 ? "" : ", ";
        to.append(field.name).append(" ");
        put_inside(*field.type, places[i], to);
    }
}

void put_name(const value_type& type, std::int64_t value, std::string& to) {
    if (const std::string_view name = name_of_value(type, value); !name.empty()) {
        to += name;
    } else {
        fmt::format_to(std::back_inserter(to), "{}", value);
    }
}

void put_words(const value_type& type, const void* value, std::string& to) {
    const auto out = std::back_inserter(to);
    switch (type.kind) {
    case value_kind::truth:
        to += read_plain(type, value).truth ? "yes" : "no";
        return;
    case value_kind::integer:
        fmt::format_to(out, "{}", read_plain(type, value).integer);
        return;
    case value_kind::natural:
        fmt::format_to(out, "{}", read_plain(type, value).natural);
        return;
    case value_kind::real:
        fmt::format_to(out, "{}", read_plain(type, value).real);
        return;
    case value_kind::duration:
        fmt::format_to(out, "{} s", read_plain(type, value).real);
        return;
    case value_kind::enumeration:
        put_name(type, read_plain(type, value).integer, to);
        return;
    case value_kind::text:
        to += type.text(value);
        return;
    case value_kind::object:
        put_fields(*type.fields, value, to);
        return;
    case value_kind::optional: {
        const void* const held = type.held(value);
        held != nullptr ? put_words(*type.inner, held, to) : void(to += "nothing");
        return;
    }
    case value_kind::list:
        put_items(type, value, to);
        return;
    case value_kind::other:
        to += "unknown";
        return;
    }
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
