// SPDX-License-Identifier: MIT
// All files as one.
#include "wiring/check/checker.hpp"

#include <algorithm>
#include <set>
#include <string_view>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

void collect_sets(wire_checker& by, const data& file, std::vector<set_plan>& into) {
    static const std::vector<std::string> known{"enabled", "during", "note"};
    const data* const all = by.need(file, "set", data_kind::table);
    for (std::size_t i = 0; all != nullptr && i < all->entries.size(); ++i) {
        const keyed_data& one = all->entries[i];
        set_plan made{std::string(one.key), one.key_at, {}};
        if (one.value.kind != data_kind::table) {
            by.faults().add(wiring_code::wrong_type, one.value.at, "a set must be a table", "write [set.name]");
            continue;
        }
        by.only_keys(one.value, "a set", known);
        if (const data* const enabled = by.need(one.value, "enabled", data_kind::truth)) {
            made.on = enabled->truth;
        }
        made.during = by.phases(one.value);
        into.push_back(std::move(made));
    }
}

void sort_sets(wire_checker& by, std::vector<set_plan>& sets) {
    std::stable_sort(sets.begin(), sets.end(), [](const set_plan& a, const set_plan& b) { return a.name < b.name; });
    for (std::size_t i = 1; i < sets.size(); ++i) {
        if (sets[i].name == sets[i - 1].name) {
            by.faults().add(wiring_code::duplicate, sets[i].at, "there are two sets " + in_quotes(sets[i].name),
                            "take one of them out");
        }
    }
}

void look_for_sets(wire_checker& by, const std::vector<wire_source>& wires, const wiring_plan& plan) {
    for (const wire_source& wire : wires) {
        const data* const set = wire.table->kind == data_kind::table ? wire.table->find("set") : nullptr;
        if (set != nullptr && set->kind == data_kind::text && find_set(plan.sets, set->text) == nullptr) {
            const std::vector<std::string> names = names_of(plan.sets);
            by.faults().add(wiring_code::unknown_set, set->at, "there is no set " + in_quotes(set->text),
                            names.empty() ? "write [set." + std::string(set->text) + "] in one of the files"
                                          : nearest_or_all(set->text, names, "there are"));
        }
    }
}

} // namespace

void expand_causes(wire_checker& by, data_store& store, std::vector<wire_source>& wires) {
    std::uint32_t families = 0;
    std::vector<wire_source> all;
    all.reserve(wires.size());
    for (wire_source& wire : wires) {
        const data* const when = wire.table->kind == data_kind::table ? wire.table->find("when") : nullptr;
        if (when == nullptr || when->kind != data_kind::list || when->items.empty()) {
            all.push_back(std::move(wire)); // as it is
            continue;
        }
        ++families;
        std::set<std::string_view> texts;
        for (const data& cause : when->items) {
            if (cause.kind == data_kind::text && !texts.insert(cause.text).second) {
                by.faults().add(wiring_code::duplicate, cause.at, in_quotes(cause.text) + " stands twice in this list",
                                "take one of them out");
                continue;
            }
            const std::span<keyed_data> entries = store.entries(wire.table->entries.size());
            std::copy(wire.table->entries.begin(), wire.table->entries.end(), entries.begin());
            std::find_if(entries.begin(), entries.end(), [](const auto& one) { return one.key == "when"; })->value =
                cause;
            const std::span<data> made = store.items(1);
            made[0] = *wire.table;
            made[0].entries = entries;
            all.push_back({made.data(), wire.use, families});
        }
    }
    wires.swap(all);
}

wiring_plan check_wiring(const std::vector<data>& files, data_store& store, const catalogue& has, fault_list& faults) {
    static const std::vector<std::string> known{"include", "wire", "pattern", "fill", "set", "state"};
    wiring_plan made;
    wire_checker by(has, faults);
    std::vector<wire_source> wires;
    for (const data& file : files) {
        by.only_keys(file, "a wiring file", known);
        collect_sets(by, file, made.sets);
        if (const data* const own = by.need(file, "wire", data_kind::list)) {
            for (const data& one : own->items) {
                wires.push_back({&one, {}});
            }
        }
    }
    sort_sets(by, made.sets);
    expand_patterns(by, files, store, wires);
    look_for_sets(by, wires, made);
    expand_causes(by, store, wires);
    made.wires.reserve(wires.size());
    for (wire_source& wire : wires) {
        if (auto checked = by.wire(*wire.table)) {
            checked->use = std::move(wire.use);
            checked->family = wire.family;
            checked->identity = identity_of(*checked, made.sets);
            made.wires.push_back(std::move(*checked));
        }
    }
    check_together(by, made);
    return made;
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
