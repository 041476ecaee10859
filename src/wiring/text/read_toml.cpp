// SPDX-License-Identifier: MIT
// TOML 1.0 by toml++, into data of our own, which knows its places also when it is
// copied.
#include "wiring/text/toml_parser.hpp"
#include "wiring/text/toml_slips.hpp"

#include <courier/detail/base/nesting.hpp>

#include <algorithm>
#include <tuple>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

class toml_data {
public:
    toml_data(std::uint32_t file, data_store& store) : file_(file), store_(store) {}

    data of(const toml::node& node) {
        data made;
        made.at = place_of(node.source(), file_);
        switch (node.type()) {
        case toml::node_type::table:
            made.kind = data_kind::table;
            made.entries = entries_of(*node.as_table());
            break;
        case toml::node_type::array:
            made.kind = data_kind::list;
            made.items = items_of(*node.as_array());
            break;
        case toml::node_type::string:
            made.kind = data_kind::text;
            made.text = node.as_string()->get();
            break;
        case toml::node_type::integer:
            made.kind = data_kind::integer;
            made.integer = node.as_integer()->get();
            break;
        case toml::node_type::floating_point:
            made.kind = data_kind::real;
            made.real = node.as_floating_point()->get();
            break;
        case toml::node_type::boolean:
            made.kind = data_kind::truth;
            made.truth = node.as_boolean()->get();
            break;
        default:
            break;
        }
        return made;
    }

private:
    std::span<data> items_of(const toml::array& list) {
        const std::span<data> made = store_.items(list.size());
        for (std::size_t i = 0; i < made.size(); ++i) {
            made[i] = of(*list.get(i));
        }
        return made;
    }

    std::span<keyed_data> entries_of(const toml::table& table) {
        const std::span<keyed_data> made = store_.entries(table.size());
        std::size_t next = 0;
        for (const auto& [key, value] : table) {
            made[next++] = {key.str(), place_of(key.source(), file_), of(value)};
        }
        std::sort(made.begin(), made.end(), [](const keyed_data& a, const keyed_data& b) {
            return std::tuple(a.key_at.line, a.key_at.column) < std::tuple(b.key_at.line, b.key_at.column);
        });
        return made;
    }

    std::uint32_t file_;
    data_store& store_;
};

} // namespace

std::shared_ptr<const toml::table> parse_toml(const wiring_text& from, std::uint32_t file, fault_list& faults) {
    if (is_too_deep(from.text, text_format::as_toml)) {
        faults.add(wiring_code::too_large, {file, 1, 1},
                   "lists, tables or the parts of a key nest more than " + std::to_string(deepest_nesting) + " deep",
                   "a wiring file needs four levels");
        return nullptr;
    }
    try {
        return std::make_shared<const toml::table>(toml::parse(from.text));
    } catch (const toml::parse_error& error) {
        const place_in at = place_of(error.source(), file);
        toml_slip slip = slip_in(from.line(at.line), error.description());
        faults.add(wiring_code::not_toml, at, std::move(slip.what),
                   std::move(slip.advice) + "; the rest of the file is checked after that");
        return nullptr;
    }
}

bool read_toml(const wiring_text& from, std::uint32_t file, data_store& store, data& into, fault_list& faults) {
    std::shared_ptr<const toml::table> parsed = parse_toml(from, file, faults);
    if (parsed == nullptr) {
        return false;
    }
    into = toml_data(file, store).of(*parsed);
    store.keep(std::move(parsed)); // texts are in it
    return true;
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
