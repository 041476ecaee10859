// SPDX-License-Identifier: MIT
// What fits where, for those who pick.
#include <courier/wiring/wiring_edit.hpp>

#include "wiring/check/checker.hpp"

#include <string>

WIRED_COURIER_NAMESPACE_BEGIN

namespace {

using namespace detail;

std::vector<std::string> tests_of(const value_shape& shape) {
    std::vector<std::string> all{"value", "list", "not"};
    if (has_order(shape.kind)) {
        all.insert(all.end(), {"less_than", "more_than", "at_least", "at_most", "between"});
    }
    return all;
}

/// Fields that are single values, and those of fields, and whether each may be left out.
template <class Visit>
void each_field(const value_shape& object, const std::string& prefix, const Visit& visit, bool has_default = false) {
    for (const named_shape& one : object.fields) {
        if (one.shape.kind == value_kind::object) {
            each_field(one.shape, prefix + one.name + ".", visit, has_default || one.has_default);
        } else if (is_simple(without_optional(one.shape).kind)) {
            visit(prefix + one.name, one.shape, has_default || one.has_default);
        }
    }
}

/// Whether "{name}" is taken for a parameter.
bool is_taken(const value_shape& from, const value_shape& parameter) noexcept {
    const value_shape& want = without_optional(parameter);
    const bool may_be_missing =
        from.kind == value_kind::optional && parameter.kind != value_kind::optional && want.kind != value_kind::text;
    return !may_be_missing && (want.kind == value_kind::text || value_fits(without_optional(from), want));
}

} // namespace

std::vector<std::string> wiring_edit::causes() const {
    return names_of(has_.channels);
}

std::vector<fitting_field> wiring_edit::conditions_for(std::string_view when) const {
    std::vector<fitting_field> all;
    if (const channel_entry* const cause = has_.channel(when)) {
        each_field(cause->payload, "", [&](const std::string& name, const value_shape& shape, bool) {
            all.push_back({name, shape, tests_of(without_optional(shape))});
        });
    }
    return all;
}

std::vector<fitting_field> wiring_edit::state_conditions() const {
    std::vector<fitting_field> all;
    for (const channel_entry& one : has_.channels) {
        if (one.is_state && is_simple(without_optional(one.payload.fields.back().shape).kind)) {
            const value_shape& shape = one.payload.fields.back().shape;
            all.push_back({one.name, shape, tests_of(without_optional(shape))});
        }
    }
    return all;
}

std::vector<fitting_action> wiring_edit::actions_for(std::string_view when) const {
    const channel_entry* const cause = has_.channel(when);
    if (cause == nullptr) {
        return {};
    }
    const std::vector<fitting_field> states = state_conditions();
    std::vector<fitting_action> all;
    for (const action_entry& one : has_.actions) {
        fitting_action& made = all.emplace_back();
        made.name = one.name;
        made.target_kind = one.target_kind;
        if (!one.target_kind.empty() && cause->target_kind == one.target_kind) {
            made.targets.emplace_back("{at}");
        }
        each_field(cause->payload, "", [&](const std::string& field, const value_shape& is, bool) {
            if (!one.target_kind.empty() && kind_of_object(without_optional(is).type) == one.target_kind) {
                made.targets.push_back("{" + field + "}");
            }
        });
        for (const target_entry& target : has_.targets) {
            if (!one.target_kind.empty() && target.kind == one.target_kind) {
                made.targets.push_back(target.name);
            }
        }
        each_field(one.parameters, "", [&](const std::string& name, const value_shape& shape, bool has_default) {
            fitting_parameter& parameter = made.parameters.emplace_back();
            parameter.name = name;
            parameter.shape = shape;
            parameter.may_be_left_out = has_default;
            each_field(cause->payload, "", [&](const std::string& field, const value_shape& is, bool) {
                if (is_taken(is, shape)) {
                    parameter.fields.push_back(field);
                }
            });
            for (const fitting_field& state : states) {
                if (is_taken(state.shape, shape)) {
                    parameter.states.push_back(state.name);
                }
            }
        });
    }
    return all;
}

WIRED_COURIER_NAMESPACE_END
