// SPDX-License-Identifier: MIT
#include "wiring/check/declared_states.hpp"

#include <courier/change.hpp>
#include <courier/detail/base/field_table.hpp>
#include <courier/detail/base/type_name.hpp>

#include <algorithm>
#include <cstdint>
#include <string>
#include <type_traits>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

constexpr std::size_t longest_name = 200;
constexpr std::size_t most_states = 1000; // each is looked for among all that the program offers

template <class Parameters>
action_entry action_of(std::string name, const std::string& state) {
    return {std::move(name), shape_of(fields_of<Parameters>(), type_name<Parameters>(), true), {}, {}, {state}, true};
}

template <class T>
void add_entries(catalogue& to, const std::string& state) {
    to.channels.push_back({state, shape_of(fields_of<change<T>>(), type_name<change<T>>()), {}, true, true});
    to.actions.push_back(action_of<value_to_set<T>>(action_that_sets(state), state));
    if constexpr (std::is_same_v<T, bool>) {
        to.actions.push_back({action_that_toggles(state), shape_of(nullptr, {}, true), {}, {}, {state}, true});
    } else if constexpr (std::is_arithmetic_v<T>) {
        to.actions.push_back(action_of<amount_to_add<T>>(action_that_adds(state), state));
    }
}

void add_entries(catalogue& to, const declared_state& of) {
    switch (of.kind) {
    case value_kind::truth:
        return add_entries<bool>(to, of.name);
    case value_kind::integer:
        return add_entries<std::int64_t>(to, of.name);
    case value_kind::real:
        return add_entries<double>(to, of.name);
    default:
        return add_entries<std::string>(to, of.name);
    }
}

/// Of a state's changes, which have it before and after.
value_kind value_kind_of(const channel_entry& state) {
    return state.payload.fields.empty() ? value_kind::other : state.payload.fields.front().shape.kind;
}

} // namespace

declarations::declarations(const std::vector<data>& files, const catalogue& has, fault_list& faults) : has_(has) {
    wire_checker by(has, faults);
    for (const data& file : files) {
        if (const data* const all = by.need(file, "state", data_kind::table)) {
            for (const keyed_data& one : all->entries) {
                read(by, one);
            }
        }
    }
    if (states_.size() > most_states) {
        faults.add(wiring_code::too_large, states_[most_states].at, "there are more than 1000 states",
                   "let the program have the others");
        states_.resize(most_states);
    }
    look_for_clashes(faults);
    std::vector<std::string> before;
    for (const channel_entry& one : has.channels) {
        if (one.is_declared) {
            before.push_back(one.name);
        }
    }
    const auto is_as_before = [&](const declared_state& one) {
        const channel_entry* const known = has.channel(one.name);
        return known != nullptr && known->is_declared && value_kind_of(*known) == one.kind;
    };
    differ_ = states_.size() != before.size() || !std::all_of(states_.begin(), states_.end(), is_as_before);
    if (differ_) {
        changed_ = has;
        std::erase_if(changed_.channels, [](const channel_entry& one) { return one.is_declared; });
        std::erase_if(changed_.actions, [](const action_entry& one) { return one.is_declared; });
        for (const declared_state& one : states_) {
            add_entries(changed_, one);
        }
    }
}

void declarations::read(wire_checker& by, const keyed_data& from) {
    static const std::vector<std::string> known{"start", "note"};
    declared_state made{std::string(from.key), value_kind::other, {}, from.key_at};
    if (from.value.kind != data_kind::table) {
        by.faults().add(wiring_code::wrong_type, from.value.at, "a state must be a table",
                        "write [state." + in_quotes(made.name) + "] and start = 0");
        return;
    }
    by.only_keys(from.value, "a state", known);
    const data* const start = from.value.find("start");
    if (made.name.empty() || made.name.size() > longest_name) {
        by.faults().add(wiring_code::out_of_range, made.at, "the name of a state has 1 to 200 bytes");
    } else if (start == nullptr) {
        by.faults().add(wiring_code::missing_key, made.at,
                        "'start' is missing: what " + in_quotes(made.name) + " begins with",
                        "write start = 0, start = 0.0, start = false or start = \"\"");
    } else {
        switch (start->kind) {
        case data_kind::truth:
            made.kind = value_kind::truth;
            made.start.truth = start->truth;
            break;
        case data_kind::integer:
            made.kind = value_kind::integer;
            made.start.integer = start->integer;
            break;
        case data_kind::real:
            made.kind = value_kind::real;
            made.start.real = start->real;
            break;
        case data_kind::text:
            made.kind = value_kind::text;
            made.start.text = start->text;
            break;
        default:
            by.faults().add(wiring_code::wrong_type, start->at,
                            must_be("start", "true, false, a number or a text", told(start->kind)));
            return;
        }
        states_.push_back(std::move(made));
    }
}

void declarations::look_for_clashes(fault_list& faults) {
    std::stable_sort(states_.begin(), states_.end(), [](const auto& a, const auto& b) { return a.name < b.name; });
    for (std::size_t i = 1; i < states_.size(); ++i) {
        if (states_[i].name == states_[i - 1].name) {
            faults.add(wiring_code::duplicate, states_[i].at, "there are two states " + in_quotes(states_[i].name),
                       "take one of them out");
        }
    }
    for (const declared_state& one : states_) {
        const channel_entry* const known = has_.channel(one.name);
        const action_entry* const setting = has_.action(action_that_sets(one.name));
        if ((known != nullptr && !known->is_declared) || (setting != nullptr && !setting->is_declared)) {
            faults.add(wiring_code::duplicate, one.at,
                       "the program has a channel or state " + in_quotes(one.name) + " itself",
                       "give this one another name");
        }
    }
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
