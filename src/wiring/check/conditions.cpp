// SPDX-License-Identifier: MIT
// Conditions on fields and states, and whether they can hold at all.
#include "wiring/check/checker.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

bool has_order(value_kind kind) noexcept {
    return kind == value_kind::integer || kind == value_kind::natural || kind == value_kind::real ||
           kind == value_kind::duration;
}

namespace {

double as_real(const constant& value, value_kind kind) noexcept {
    switch (kind) {
    case value_kind::integer:
        return static_cast<double>(value.integer);
    case value_kind::natural:
        return static_cast<double>(value.natural);
    default:
        return value.real;
    }
}

/// The tests of one field, and what values are left by them.
class field_tests {
public:
    field_tests(wire_checker& by, std::string_view name, const condition_plan& about, std::vector<condition_plan>& into)
        : by_(by), name_(name), about_(about), shape_(without_optional(*about_.field.shape)), into_(into) {}

    void take(const data& from) {
        if (from.kind == data_kind::list) {
            one_of(from);
        } else if (from.kind == data_kind::table) {
            several(from);
        } else {
            add(test_op::equal, from);
        }
    }

private:
    void one_of(const data& from) {
        condition_plan made = about_;
        made.op = test_op::one_of;
        for (const data& one : from.items) {
            if (const auto value = constant_of(by_, one, shape_, name_)) {
                made.values.push_back(*value);
            }
        }
        if (from.items.empty()) {
            by_.faults().add(wiring_code::never_holds, from.at, "the list is empty, so this never holds",
                             "name the values, or leave the condition out");
        }
        if (shape_.kind == value_kind::enumeration && !shape_.values.empty()) {
            std::vector<std::int64_t> different;
            different.reserve(made.values.size());
            for (const constant& one : made.values) {
                different.push_back(one.integer);
            }
            std::sort(different.begin(), different.end());
            different.erase(std::unique(different.begin(), different.end()), different.end());
            if (different.size() == shape_.values.size()) {
                always(from.at);
            }
        }
        into_.push_back(std::move(made));
    }

    void several(const data& from) {
        static const std::vector<std::string> known{"less_than", "more_than", "at_least", "at_most", "between", "not"};
        if (!by_.only_keys(from, "a condition", known)) {
            return;
        }
        const std::size_t before = by_.faults().size();
        for (const keyed_data& one : from.entries) {
            if (one.key == "not") {
                refuse_values(one.value);
            } else if (!has_order(shape_.kind)) {
                by_.faults().add(wiring_code::wrong_type, one.key_at,
                                 in_quotes(name_) + " is " + kind_in_words(shape_) + ", and these have no order",
                                 "conditions that fit: a value, a list of values, { not = value }");
            } else if (one.key == "between") {
                between(one.value);
            } else {
                add(one.key == "less_than"   ? test_op::below
                    : one.key == "more_than" ? test_op::above
                    : one.key == "at_least"  ? test_op::at_least
                                             : test_op::at_most,
                    one.value);
            }
        }
        if (has_order(shape_.kind) && by_.faults().size() == before) {
            look_at_range(from.at);
        }
    }

    void refuse_values(const data& from) {
        if (from.kind != data_kind::list) {
            add(test_op::not_equal, from);
            return;
        }
        for (const data& one : from.items) {
            add(test_op::not_equal, one);
        }
    }

    void between(const data& from) {
        if (from.kind != data_kind::list || from.items.size() != 2) {
            by_.faults().add(wiring_code::wrong_type, from.at, "'between' must be a list of two numbers",
                             "write between = [2, 5]");
            return;
        }
        add(test_op::at_least, from.items[0]);
        add(test_op::at_most, from.items[1]);
    }

    void add(test_op op, const data& from) {
        std::optional<constant> value = constant_of(by_, from, shape_, name_);
        if (!value) {
            return;
        }
        const double number = as_real(*value, shape_.kind);
        const bool whole = shape_.kind == value_kind::integer || shape_.kind == value_kind::natural;
        if (op == test_op::below || op == test_op::at_most) {
            most_ = std::min(most_, op == test_op::below && whole ? number - 1 : number);
            open_ = open_ || (op == test_op::below && !whole);
        } else if (op == test_op::above || op == test_op::at_least) {
            least_ = std::max(least_, op == test_op::above && whole ? number + 1 : number);
            open_ = open_ || (op == test_op::above && !whole);
        }
        condition_plan& made = into_.emplace_back(about_);
        made.op = op;
        made.values.push_back(std::move(*value));
    }

    void look_at_range(place_in at) {
        if (least_ > most_ || (open_ && least_ == most_)) {
            by_.faults().add(wiring_code::never_holds, at,
                             "no " + in_quotes(name_) + " is within both bounds, so this never holds",
                             "choose bounds with numbers between them");
        }
        const double lowest = shape_.kind == value_kind::natural   ? 0
                              : shape_.kind == value_kind::integer ? static_cast<double>(shape_.least)
                                                                   : -std::numeric_limits<double>::infinity();
        const double highest = shape_.kind == value_kind::natural || shape_.kind == value_kind::integer
                                   ? static_cast<double>(shape_.most)
                                   : std::numeric_limits<double>::infinity();
        const bool says_something = least_ > lowest || most_ < highest;
        if (!says_something && (least_ == lowest || most_ == highest)) {
            always(at);
        }
    }

    void always(place_in at) {
        by_.faults().add(wiring_code::always_holds, at, "this holds for every " + in_quotes(name_),
                         "leave the condition out, or change it");
    }

    wire_checker& by_;
    std::string_view name_;
    const condition_plan& about_;
    const value_shape& shape_;
    std::vector<condition_plan>& into_;
    double least_ = -std::numeric_limits<double>::infinity();
    double most_ = std::numeric_limits<double>::infinity();
    bool open_ = false;
};

void check_fields(wire_checker& by, const data& from, const std::string& whose, const value_shape& object,
                  const std::string& prefix, const field_path& path, std::vector<condition_plan>& into) {
    for (const keyed_data& one : from.entries) {
        const auto found = std::find_if(object.fields.begin(), object.fields.end(),
                                        [&](const named_shape& field) { return field.name == one.key; });
        if (found == object.fields.end()) {
            by.faults().add(wiring_code::unknown_field, one.key_at,
                            in_quotes(whose) + " has no field " + in_quotes(one.key),
                            nearest_or_all(one.key, names_of(object.fields), "its fields"));
            continue;
        }
        field_path way = path;
        way.add(static_cast<std::size_t>(found - object.fields.begin()));
        way.shape = &found->shape;
        const std::string name = prefix + std::string(one.key);
        if (found->shape.kind == value_kind::object) {
            if (one.value.kind == data_kind::table) {
                check_fields(by, one.value, name, found->shape, name + ".", way, into);
            } else {
                by.faults().add(wiring_code::wrong_type, one.value.at,
                                must_be(name, kind_in_words(found->shape), told(one.value.kind)),
                                "write " + std::string(one.key) + " = { ... }");
            }
        } else if (is_simple(without_optional(found->shape).kind)) {
            condition_plan about;
            about.field = way;
            field_tests(by, name, about, into).take(one.value);
        } else {
            by.faults().add(wiring_code::wrong_type, one.key_at,
                            in_quotes(name) + " is " + kind_in_words(found->shape) + ", which cannot be compared");
        }
    }
}

void check_states(wire_checker& by, const data& from, const std::string& prefix, std::vector<condition_plan>& into) {
    for (const keyed_data& one : from.entries) {
        const std::string name = prefix + std::string(one.key);
        if (const value_shape* const shape = by.state_shape(name); shape != nullptr) {
            if (!is_simple(without_optional(*shape).kind)) {
                by.faults().add(wiring_code::wrong_type, one.key_at,
                                in_quotes(name) + " is " + kind_in_words(*shape) + ", which cannot be compared");
                continue;
            }
            condition_plan about;
            about.state = name;
            about.field.shape = shape;
            field_tests(by, name, about, into).take(one.value);
        } else if (one.value.kind == data_kind::table && !one.value.entries.empty() &&
                   std::any_of(by.has().channels.begin(), by.has().channels.end(),
                               [&](const channel_entry& c) { return c.is_state && c.name.starts_with(name + "."); })) {
            check_states(by, one.value, name + ".", into);
        } else {
            const auto& phases = by.has().phases;
            const bool is_phases =
                std::any_of(phases.begin(), phases.end(), [&](const auto& one_of) { return one_of.name == name; });
            by.faults().add(wiring_code::unknown_state, one.key_at, "there is no state " + in_quotes(name),
                            is_phases
                                ? "phases go into 'during': during = \"" + name + "." +
                                      (one.value.kind == data_kind::text ? std::string(one.value.text) : "...") + "\""
                                : nearest_or_all(name, by.state_names(), "there are"));
        }
    }
}

} // namespace

void check_conditions(wire_checker& by, const data& from, const std::string& cause, const value_shape& payload,
                      std::vector<condition_plan>& into) {
    check_fields(by, from, cause, payload, "", {}, into);
}

void check_state_conditions(wire_checker& by, const data& from, std::vector<condition_plan>& into) {
    check_states(by, from, "", into);
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
