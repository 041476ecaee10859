// TOML 1.0 by toml++, into data of our own, which knows its places also when it is
// copied.
#include "wiring/text/data.hpp"

#include <toml++/toml.h>

#include <algorithm>
#include <tuple>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

place_in place_of(const toml::source_region& region, std::uint32_t file) {
    return {file, region.begin.line, region.begin.column};
}

data data_of(const toml::node& node, std::uint32_t file);

data table_of_toml(const toml::table& table, std::uint32_t file) {
    data made;
    made.kind = data_kind::table;
    for (const auto& [key, value] : table) {
        made.entries.push_back({std::string(key.str()), place_of(key.source(), file), data_of(value, file)});
    }
    std::stable_sort(made.entries.begin(), made.entries.end(), [](const keyed_data& a, const keyed_data& b) {
        return std::tuple(a.key_at.line, a.key_at.column) < std::tuple(b.key_at.line, b.key_at.column);
    });
    return made;
}

data data_of(const toml::node& node, std::uint32_t file) {
    data made;
    if (const toml::table* const table = node.as_table()) {
        made = table_of_toml(*table, file);
    } else if (const toml::array* const list = node.as_array()) {
        made.kind = data_kind::list;
        for (const toml::node& item : *list) {
            made.items.push_back(data_of(item, file));
        }
    } else if (const auto* const text = node.as_string()) {
        made.kind = data_kind::text;
        made.text = text->get();
    } else if (const auto* const integer = node.as_integer()) {
        made.kind = data_kind::integer;
        made.integer = integer->get();
    } else if (const auto* const real = node.as_floating_point()) {
        made.kind = data_kind::real;
        made.real = real->get();
    } else if (const auto* const truth = node.as_boolean()) {
        made.kind = data_kind::truth;
        made.truth = truth->get();
    }
    made.at = place_of(node.source(), file);
    return made;
}

} // namespace

bool read_toml(const wiring_text& from, std::uint32_t file, data& into, fault_list& faults) {
    try {
        into = data_of(toml::parse(from.text), file);
        return true;
    } catch (const toml::parse_error& error) {
        faults.add(wiring_code::not_toml, place_of(error.source(), file), std::string(error.description()),
                   "nothing of this file is taken; everything is looked at once it is TOML");
        return false;
    }
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
