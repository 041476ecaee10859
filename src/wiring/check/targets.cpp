// SPDX-License-Identifier: MIT
// Which objects a wire and its actions are for.
#include "wiring/check/checker.hpp"

#include "data/trimmed.hpp"

#include <courier/detail/base/type_name.hpp>

#include <algorithm>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

std::string kind_of_object(std::string_view type) {
    std::string plain = type.empty() ? std::string() : plain_type_name(type);
    if (const std::size_t colon = plain.rfind("::"); colon != std::string::npos) {
        plain.erase(0, colon + 2);
    }
    return plain;
}

namespace {

bool is_in_braces(const data& at) noexcept {
    return at.kind == data_kind::text && at.text.starts_with('{') && at.text.ends_with('}');
}

std::string of_kind(const wanted_object& whose, std::string_view is) {
    return " is " + std::string(is) + ", but " + whose.name + " is for a " + whose.kind;
}

} // namespace

void wire_checker::cause_target(const data& at, const channel_entry& cause, target_plan& made) {
    const wanted_object whose{in_quotes(cause.name), cause.target_kind};
    if (whose.kind.empty()) {
        faults_.add(wiring_code::unknown_target_kind, at.at, whose.name + " is not for any one object",
                    "leave 'at' out");
    } else if (at.kind == data_kind::table) {
        only_keys(at, "'at'", {"group"});
        objects_of(at, whose, made);
    } else {
        object_named(at, whose, made);
    }
}

std::vector<target_plan> wire_checker::action_targets(const data& step, const action_entry& action,
                                                      const value_scope& scope) {
    const data* const at = step.find("at");
    if (at == nullptr) {
        if (!action.target_kind.empty()) {
            faults_.add(wiring_code::missing_key, step.at,
                        in_quotes(action.name) + " needs 'at', the name of a " + action.target_kind,
                        "write at = \"...\"");
        }
        return {{}};
    }
    std::vector<target_plan> all;
    for (const data& one : one_or_several(*at)) {
        action_target(one, action, scope, all.emplace_back());
    }
    if (all.empty()) {
        faults_.add(wiring_code::missing_key, at->at, "no object is named", "name one, or leave the action out");
    }
    return all;
}

void wire_checker::action_target(const data& at, const action_entry& action, const value_scope& scope,
                                 target_plan& made) {
    const wanted_object whose{in_quotes(action.name), action.target_kind};
    if (whose.kind.empty()) {
        faults_.add(wiring_code::unknown_target_kind, at.at, whose.name + " is not for any one object",
                    "leave 'at' out");
    } else if (at.kind == data_kind::table) {
        only_keys(at, "'at'", {"group", "all", "except"});
        objects_of(at, whose, made);
        if (const data* const except = need(at, "except", data_kind::text)) {
            if (made.is_all) {
                faults_.add(wiring_code::wrong_type, except->at, "'except' goes with a group, and not with 'all'",
                            "offer a group of them, and write at = { group = \"...\", except = ... }");
            }
            is_in_braces(*except) ? object_of_event(*except, whose, scope, made) : object_named(*except, whose, made);
        }
    } else if (is_in_braces(at)) {
        object_of_event(at, whose, scope, made);
    } else {
        object_named(at, whose, made);
    }
}

void wire_checker::object_named(const data& at, const wanted_object& whose, target_plan& made) {
    if (at.kind != data_kind::text) {
        faults_.add(wiring_code::wrong_type, at.at, must_be("at", told(data_kind::text), told(at.kind)),
                    "write it in quotation marks");
        return;
    }
    if (at.text == "*" || at.text.find_first_of("{}<>") != std::string_view::npos) {
        faults_.add(
            wiring_code::unknown_target_kind, at.at,
            in_quotes(at.text) + " cannot be the name of an object, so this would never match",
            R"(name one object, or in an action write "{at}", the object of the event, "{field}", or { all = ")" +
                whose.kind + R"(" })");
        return;
    }
    made.name = at.text;
    made.at = at.at;
    const auto found = std::find_if(has_.targets.begin(), has_.targets.end(),
                                    [&](const target_entry& target) { return target.name == at.text; });
    if (found != has_.targets.end() && found->kind != whose.kind) {
        faults_.add(wiring_code::unknown_target_kind, at.at, in_quotes(at.text) + of_kind(whose, "a " + found->kind),
                    "name a " + whose.kind);
    }
}

/// The object that the event is for, "{at}", or one that a field names, "{who}".
void wire_checker::object_of_event(const data& at, const wanted_object& whose, const value_scope& scope,
                                   target_plan& made) {
    if (scope.payload == nullptr) { // its cause is not known, which has been said
        return;
    }
    const std::string_view name = trimmed(at.text.substr(1, at.text.size() - 2));
    const std::string advice = "name a " + whose.kind;
    std::string kind;
    field_path field;
    if (name == "at" && !scope.target_kind.empty()) {
        made.is_event = true;
        kind = scope.target_kind;
    } else if (find_field(*scope.payload, name, field)) {
        kind = kind_of_object(without_optional(*field.shape).type);
        made.field = field;
    } else {
        const bool is_event = name == "at";
        faults_.add(is_event ? wiring_code::unknown_target_kind : wiring_code::unknown_field, at.at,
                    is_event ? in_quotes(scope.cause) + " is not for any one object, so there is no {at}"
                             : in_quotes(scope.cause) + " has no field " + in_quotes(name),
                    is_event ? advice : nearest_or_all(name, names_of(scope.payload->fields), "there are"));
        return;
    }
    if (kind != whose.kind) {
        faults_.add(wiring_code::unknown_target_kind, at.at,
                    in_quotes(at.text) + of_kind(whose, kind.empty() ? in_words(*field.shape) : "a " + kind), advice);
    }
}

/// { group = "convoy" }, or { all = "bell" }.
void wire_checker::objects_of(const data& at, const wanted_object& whose, target_plan& made) {
    const data* const group = need(at, "group", data_kind::text);
    const data* const all = need(at, "all", data_kind::text);
    if ((group == nullptr) == (all == nullptr)) {
        faults_.add(wiring_code::missing_key, at.at, "this needs one of 'group' and 'all'",
                    R"(write at = { group = "..." }, or at = { all = ")" + whose.kind + R"(" })");
        return;
    }
    made.is_all = all != nullptr;
    std::string kind;
    if (all != nullptr) {
        kind = all->text;
    } else {
        made.group = group->text;
        const auto found = std::find_if(has_.groups.begin(), has_.groups.end(),
                                        [&](const group_entry& one) { return one.name == group->text; });
        if (found == has_.groups.end()) {
            faults_.add(wiring_code::unknown_target_kind, group->at, "there is no group " + in_quotes(group->text),
                        nearest_or_all(group->text, names_of(has_.groups), "there are"));
            return;
        }
        kind = found->kind;
    }
    if (kind != whose.kind) {
        faults_.add(wiring_code::unknown_target_kind, at.at,
                    group != nullptr ? in_quotes(group->text) + of_kind(whose, "a group of " + kind + "s")
                                     : whose.name + " is for a " + whose.kind + ", and not for a " + in_quotes(kind),
                    group != nullptr ? "name a group of " + whose.kind + "s" : "write all = \"" + whose.kind + "\"");
    }
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
