#include "recording/read/payload_reader.hpp"

#include "recording/read/take_json.hpp"

#include <algorithm>
#include <limits>
#include <string_view>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

struct reader {
    kept_texts& texts;
    std::string& wrong;

    bool value(const nlohmann::json& from, const value_type& type, void* into);
    bool simple(const nlohmann::json& from, const value_type& type, void* into);
    bool text(const nlohmann::json& from, const value_type& type, void* into);
    bool list(const nlohmann::json& from, const value_type& type, void* into);
    bool fields(const nlohmann::json& from, const field_table& table, void* object);
};

bool take(const nlohmann::json& from, double& into) {
    if (from.is_null()) {
        into = std::numeric_limits<double>::quiet_NaN(); // which is how it was written
        return true;
    }
    if (!from.is_number()) {
        return false;
    }
    into = from.get<double>();
    return true;
}

bool reader::simple(const nlohmann::json& from, const value_type& type, void* into) {
    plain_value read;
    switch (type.kind) {
    case value_kind::truth:
        if (!from.is_boolean()) {
            return false;
        }
        read.truth = from.get<bool>();
        break;
    case value_kind::natural:
        if (!from.is_number_unsigned()) {
            return false;
        }
        read.natural = from.get<std::uint64_t>();
        break;
    case value_kind::integer:
        if (!take_whole(from, read.integer)) {
            return false;
        }
        break;
    case value_kind::enumeration:
        if (!take_named(from, type, read.integer)) {
            return false;
        }
        break;
    default:
        if (!take(from, read.real)) {
            return false;
        }
    }
    return write_plain(type, into, read);
}

bool reader::text(const nlohmann::json& from, const value_type& type, void* into) {
    if (from.is_null() && type.borrows) {
        return type.assign(into, std::string_view());
    }
    if (!from.is_string()) {
        return false;
    }
    const std::string_view read = from.get_ref<const std::string&>();
    return type.assign(into, type.borrows ? texts.keep(read) : read);
}

bool reader::list(const nlohmann::json& from, const value_type& type, void* into) {
    struct next_item {
        reader& by;
        const value_type& type;
        const nlohmann::json* from;
    } next{*this, *type.inner, nullptr};
    type.clear(into);
    if (!from.is_array()) {
        return true;
    }
    return std::all_of(from.begin(), from.end(), [&](const nlohmann::json& one) {
        next.from = &one;
        return type.add(into, &next, [](void* context, void* item) {
            const auto& known = *static_cast<const next_item*>(context);
            return known.by.value(*known.from, known.type, item);
        });
    });
}

bool reader::value(const nlohmann::json& from, const value_type& type, void* into) {
    if (!type.can_write) {
        return false;
    }
    switch (type.kind) {
    case value_kind::text:
        return text(from, type, into);
    case value_kind::object:
        return fields(from, *type.fields, into);
    case value_kind::optional:
        if (from.is_null()) {
            type.drop(into);
            return true;
        }
        return value(from, *type.inner, type.hold(into));
    case value_kind::list:
        return list(from, type, into);
    default:
        return simple(from, type, into);
    }
}

bool reader::fields(const nlohmann::json& from, const field_table& table, void* object) {
    std::vector<const void*> places(table.entries.size());
    table.locate(object, places.data());
    for (std::size_t i = 0; i < places.size(); ++i) {
        const field_entry& entry = table.entries[i];
        if (entry.type->kind == value_kind::other) {
            continue; // it was never written
        }
        const auto found = from.is_object() ? from.find(entry.name) : from.end();
        if (found == from.end() || !value(*found, *entry.type, const_cast<void*>(places[i]))) {
            wrong = wrong.empty() ? std::string(entry.name) : std::string(entry.name) + "." + wrong;
            return false;
        }
    }
    return true;
}

} // namespace

bool read_fields(const nlohmann::json& from, const field_table& table, void* object, kept_texts& texts,
                 std::string& wrong) {
    return reader{texts, wrong}.fields(from, table, object);
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
