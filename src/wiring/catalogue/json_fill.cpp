#include "wiring/catalogue/json_fill.hpp"

#include "recording/read/take_json.hpp"

#include <courier/detail/base/nearest.hpp>
#include <courier/detail/base/type_name.hpp>
#include <courier/wiring/catalogue.hpp>
#include <courier/wiring/detail/shape.hpp>

#include <algorithm>
#include <string_view>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

constexpr int deepest_payload = 16; ///< structs and lists inside of one another

std::string kind_of(const nlohmann::json& value) {
    return value.is_string()    ? "a text"
           : value.is_boolean() ? "a truth value"
           : value.is_number()  ? "the number " + value.dump()
           : value.is_array()   ? "a list"
           : value.is_object()  ? "an object"
                                : "null";
}

/// Where a value is; written out only where something is wrong with it.
struct value_place {
    const value_place* above;
    std::string_view key; ///< of an object
    std::size_t index;    ///< of a list, where there is no key
};

std::string pointer_to(const value_place* at) {
    if (at == nullptr) {
        return {};
    }
    std::string made = pointer_to(at->above) + "/";
    if (at->key.data() == nullptr) {
        return made + std::to_string(at->index);
    }
    for (const char c : at->key) {
        c == '~' ? made += "~0" : c == '/' ? made += "~1" : made += c;
    }
    return made;
}

class filler {
public:
    filler(std::vector<misfit>& wrong, other_fields others) : wrong_(wrong), others_(others) {}

    void fields(const nlohmann::json& from, const field_table& table, void* object, const value_place* at, int depth) {
        if (!from.is_object()) {
            wrong_.push_back({pointer_to(at), "is " + kind_of(from) + ", where an object with fields belongs", {}});
            return;
        }
        std::vector<const void*> places(table.entries.size());
        table.locate(object, places.data());
        for (const auto& [key, value] : from.items()) {
            const field_entry* const found = std::find_if(table.entries.begin(), table.entries.end(),
                                                          [&, name = &key](const auto& e) { return e.name == *name; });
            const value_place here{at, key, 0};
            if (found == table.entries.end()) {
                if (others_ == other_fields::wrong) {
                    unknown(here, key, table);
                }
            } else {
                fill(value, *found->type,
                     const_cast<void*>(places[static_cast<std::size_t>(found - table.entries.begin())]), &here, depth);
            }
        }
        for (const field_entry& one : table.entries) { // as the catalogue says
            if (others_ == other_fields::wrong && one.type->kind != value_kind::optional && !from.contains(one.name)) {
                const value_place here{at, one.name, 0};
                wrong_.push_back({pointer_to(&here), "is missing; it is " + in_words(shape_of(*one.type)), {}});
            }
        }
    }

private:
    void unknown(const value_place& at, const std::string& key, const field_table& table) {
        std::vector<std::string> names;
        for (const field_entry& one : table.entries) {
            names.emplace_back(one.name);
        }
        const std::string nearest = nearest_of(key, names);
        wrong_.push_back({pointer_to(&at), "is no field of " + plain_type_name(table.type),
                          nearest.empty() ? std::string() : "did you mean '" + nearest + "'?"});
    }

    void fill(const nlohmann::json& from, const value_type& type, void* into, const value_place* at, int depth) {
        if (type.kind == value_kind::object && type.can_write && depth < deepest_payload) {
            fields(from, *type.fields, into, at, depth + 1);
        } else if (type.kind == value_kind::list && type.can_write && from.is_array() && depth < deepest_payload) {
            list(from, type, into, at, depth + 1);
        } else if (type.kind == value_kind::optional && type.can_write && depth < deepest_payload) {
            from.is_null() ? type.drop(into) : fill(from, *type.inner, type.hold(into), at, depth + 1);
        } else if (!simple(from, type, into) && !is_no_number(from, type, into)) {
            does_not_fit(from, type, at);
        }
    }

    void list(const nlohmann::json& from, const value_type& type, void* into, const value_place* at, int depth) {
        struct next_item {
            filler& by;
            const value_type& type;
            const nlohmann::json* from;
            value_place at;
            int depth;
        } next{*this, *type.inner, nullptr, {at, {}, 0}, depth};
        type.clear(into);
        for (std::size_t i = 0; i < from.size(); ++i) {
            next.from = &from[i];
            next.at.index = i;
            type.add(into, &next, [](void* context, void* item) {
                const auto& known = *static_cast<const next_item*>(context);
                known.by.fill(*known.from, known.type, item, &known.at, known.depth);
                return true;
            });
        }
    }

    // False when it does not fit.
    static bool simple(const nlohmann::json& from, const value_type& type, void* into) {
        plain_value read;
        if (!type.can_write || type.borrows) {
            return false;
        }
        switch (type.kind) {
        case value_kind::truth:
            read.truth = from.is_boolean() && from.get<bool>();
            return from.is_boolean() && write_plain(type, into, read);
        case value_kind::natural:
            read.natural = from.is_number_unsigned() ? from.get<std::uint64_t>() : 0;
            return from.is_number_unsigned() && write_plain(type, into, read);
        case value_kind::integer:
            return take_whole(from, read.integer) && write_plain(type, into, read);
        case value_kind::enumeration:
            return take_named(from, type, read.integer) && write_plain(type, into, read);
        case value_kind::real:
        case value_kind::duration:
            read.real = from.is_number() ? from.get<double>() : 0;
            return from.is_number() && write_plain(type, into, read);
        case value_kind::text:
            return from.is_string() && type.assign(into, from.get_ref<const std::string&>());
        default:
            return false;
        }
    }

    // JSON has no NaN and no infinity: writers that keep such fields write null.
    bool is_no_number(const nlohmann::json& from, const value_type& type, void* into) const {
        if (others_ != other_fields::as_is || type.kind != value_kind::real || !type.can_write || !from.is_null()) {
            return false;
        }
        plain_value read;
        read.real = std::numeric_limits<double>::quiet_NaN();
        return write_plain(type, into, read);
    }

    void does_not_fit(const nlohmann::json& from, const value_type& type, const value_place* at) {
        const value_shape shape = shape_of(type);
        misfit one{pointer_to(at), "is " + kind_of(from) + ", where " + in_words(shape) + " belongs", {}};
        if (!type.can_write || type.borrows) {
            one.what = "cannot be given from outside: it refers to what somebody else keeps";
        } else if (type.kind == value_kind::enumeration && from.is_string()) {
            const std::string name = from.get<std::string>();
            one.what = "is '" + name + "', where " + in_words(shape) + " belongs";
            const std::string nearest = nearest_of(name, shape.values);
            one.advice = nearest.empty() ? std::string() : "did you mean '" + nearest + "'?";
        }
        wrong_.push_back(std::move(one));
    }

    std::vector<misfit>& wrong_;
    const other_fields others_;
};

} // namespace

std::vector<misfit> fill_fields(const nlohmann::json& from, const field_table* table, void* object,
                                other_fields others) {
    std::vector<misfit> wrong;
    if (table != nullptr) {
        filler(wrong, others).fields(from, *table, object, nullptr, 0);
    } else if (!from.is_object() || (others == other_fields::wrong && !from.empty())) {
        wrong.push_back({"", "has fields, where an empty object belongs", {}});
    }
    return wrong;
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
