// SPDX-License-Identifier: MIT
// Parameters of actions: constants, fields, states, and texts made of these.
#include "wiring/check/checker.hpp"

#include "data/trimmed.hpp"

#include <algorithm>
#include <charconv>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

bool find_field(const value_shape& object, std::string_view name, field_path& into) {
    const value_shape* at = &object;
    while (true) {
        const std::size_t dot = name.find('.');
        const std::string_view first = name.substr(0, dot);
        const auto found = std::find_if(at->fields.begin(), at->fields.end(),
                                        [&](const named_shape& field) { return field.name == first; });
        if (found == at->fields.end()) {
            return false;
        }
        into.add(static_cast<std::size_t>(found - at->fields.begin()));
        at = &found->shape;
        if (dot == std::string_view::npos) {
            into.shape = at;
            return true;
        }
        name.remove_prefix(dot + 1);
    }
}

namespace {

bool is_number(value_kind kind) noexcept {
    return kind == value_kind::integer || kind == value_kind::natural || kind == value_kind::real;
}

} // namespace

bool value_fits(const value_shape& is, const value_shape& want) noexcept {
    switch (want.kind) {
    case value_kind::integer:
    case value_kind::natural:
        return is.kind == value_kind::integer || is.kind == value_kind::natural;
    case value_kind::real:
    case value_kind::duration:
        return is_number(is.kind) || is.kind == value_kind::duration;
    case value_kind::truth:
        return is.kind == want.kind;
    case value_kind::enumeration:
        return is.kind == want.kind && is.type == want.type;
    default:
        return false;
    }
}

namespace {

/// What stands between braces: a name, and perhaps `* 3.5` and `:.1`.
struct placeholder {
    std::string name;
    double factor = 1;
    bool has_factor = false;
    int decimals = -1;
};

bool read_placeholder(std::string_view text, placeholder& into) {
    if (const std::size_t colon = text.find(':'); colon != std::string_view::npos) {
        const std::string_view format = trimmed(text.substr(colon + 1));
        if (format.size() != 2 || format[0] != '.' || format[1] < '0' || format[1] > '9') {
            return false;
        }
        into.decimals = format[1] - '0';
        text = text.substr(0, colon);
    }
    if (const std::size_t star = text.find('*'); star != std::string_view::npos) {
        const std::string_view factor = trimmed(text.substr(star + 1));
        const auto [past, error] = std::from_chars(factor.data(), factor.data() + factor.size(), into.factor);
        if (error != std::errc{} || past != factor.data() + factor.size()) {
            return false;
        }
        into.has_factor = true;
        text = text.substr(0, star);
    }
    into.name = trimmed(text);
    return !into.name.empty();
}

class value_checker {
public:
    value_checker(wire_checker& by, const value_scope& scope) : by_(by), scope_(scope) {}

    std::optional<value_plan> value(const data& from, const value_shape& wanted, std::string_view name) {
        if (from.kind != data_kind::text || from.text.find_first_of("{}") == std::string_view::npos) {
            value_plan made;
            const std::optional<constant> read = constant_of(by_, from, wanted, name);
            if (!read) {
                return std::nullopt;
            }
            made.value = *read;
            return made;
        }
        return of_text(from, wanted, name);
    }

private:
    std::optional<value_plan> of_text(const data& from, const value_shape& wanted, std::string_view name) {
        std::vector<value_plan> pieces;
        if (!split(from, pieces)) {
            return std::nullopt;
        }
        if (pieces.size() == 1 && pieces.front().from != value_origin::constant && wanted.kind != value_kind::text) {
            return fits(pieces.front(), wanted, from.at, name) ? std::optional(pieces.front()) : std::nullopt;
        }
        if (wanted.kind != value_kind::text) {
            by_.faults().add(wiring_code::wrong_type, from.at, must_be(name, kind_in_words(wanted), "a text"),
                             "write one field in braces, and nothing else: \"{field}\"");
            return std::nullopt;
        }
        value_plan made;
        made.from = value_origin::text;
        made.pieces = std::move(pieces);
        return made;
    }

    bool split(const data& from, std::vector<value_plan>& into) {
        std::string literal;
        const auto end_literal = [&] {
            if (!literal.empty()) {
                into.emplace_back().value.text = std::exchange(literal, {});
            }
        };
        const std::string text(from.text);
        for (std::size_t i = 0; i < text.size(); ++i) {
            const bool doubled = i + 1 < text.size() && text[i] == text[i + 1];
            if ((text[i] == '{' || text[i] == '}') && doubled) {
                literal += text[i++];
            } else if (text[i] == '{') {
                end_literal();
                const std::size_t end = text.find('}', i);
                if (end == std::string::npos || !take(from, i, text.substr(i + 1, end - i - 1), into)) {
                    return end == std::string::npos ? unclosed(from, i) : false;
                }
                i = end;
            } else if (text[i] == '}') {
                return unclosed(from, i);
            } else {
                literal += text[i];
            }
        }
        end_literal();
        return true;
    }

    bool unclosed(const data& from, std::size_t i) {
        by_.faults().add(wiring_code::wrong_type, inside(from, i), "a brace without its other half",
                         "write {field}, or {{ and }} for the braces themselves");
        return false;
    }

    static place_in inside(const data& from, std::size_t i) {
        return {from.at.file, from.at.line, from.at.column + 1 + static_cast<std::uint32_t>(i)}; // behind the quote
    }

    bool take(const data& from, std::size_t i, const std::string& text, std::vector<value_plan>& into) {
        placeholder read;
        if (!read_placeholder(text, read)) {
            by_.faults().add(wiring_code::wrong_type, inside(from, i), "{" + text + "} cannot be read",
                             "write {field}, {field * 1.5} or {field:.1}");
            return false;
        }
        value_plan made;
        made.factor = read.factor;
        made.decimals = read.decimals;
        if (!resolve(read.name, made)) {
            unknown(inside(from, i), read.name);
            return false;
        }
        if (!is_simple(shape_of_value(made).kind)) {
            by_.faults().add(wiring_code::wrong_type, inside(from, i),
                             in_quotes(read.name) + " is " + kind_in_words(*made.field.shape) + ", not a single value",
                             made.field.shape->kind == value_kind::object
                                 ? nearest_or_all("", names_of(made.field.shape->fields), "name one of its fields")
                                 : "");
            return false;
        }
        if ((read.has_factor || read.decimals >= 0) && !is_number(shape_of_value(made).kind) &&
            shape_of_value(made).kind != value_kind::duration) {
            by_.faults().add(wiring_code::wrong_type, inside(from, i), in_quotes(read.name) + " is not a number",
                             "only numbers can be multiplied and rounded");
            return false;
        }
        into.push_back(std::move(made));
        return true;
    }

    static const value_shape& shape_of_value(const value_plan& made) { return without_optional(*made.field.shape); }

    bool resolve(const std::string& name, value_plan& into) {
        if (scope_.payload != nullptr && find_field(*scope_.payload, name, into.field)) {
            into.from = value_origin::field;
            return true;
        }
        into.field = {};
        if (const value_shape* const state = by_.state_shape(name); state != nullptr) {
            into.from = value_origin::state;
            into.state = name;
            into.field.shape = state;
            return true;
        }
        if (scope_.has_why && name == "why") {
            static const value_shape text{.kind = value_kind::text};
            into.from = value_origin::why;
            into.field.shape = &text;
            return true;
        }
        const bool whole = name == "answer";
        if (scope_.answer == nullptr || (!whole && !name.starts_with("answer."))) {
            return false;
        }
        into.from = value_origin::answer;
        if (whole) {
            into.field.shape = scope_.answer;
            return true;
        }
        return find_field(*scope_.answer, std::string_view(name).substr(7), into.field);
    }

    void unknown(place_in at, const std::string& name) {
        std::vector<std::string> names =
            scope_.payload != nullptr ? names_of(scope_.payload->fields) : std::vector<std::string>();
        for (const std::string& state : by_.state_names()) {
            names.push_back(state);
        }
        if (scope_.answer != nullptr) {
            names.emplace_back("answer");
        }
        if (scope_.has_why) {
            names.emplace_back("why");
        }
        by_.faults().add(wiring_code::unknown_field, at,
                         in_quotes(name) + " is neither a field of " +
                             (scope_.cause.empty() ? "the cause" : in_quotes(scope_.cause)) + " nor a state",
                         nearest_or_all(name, names, "there are"));
    }

    bool fits(const value_plan& from, const value_shape& wanted, place_in at, std::string_view name) {
        const value_shape& have = *from.field.shape;
        const bool may_be_missing = have.kind == value_kind::optional && wanted.kind != value_kind::optional;
        const value_shape& want = without_optional(wanted);
        const value_shape& is = shape_of_value(from);
        const bool whole = want.kind == value_kind::integer || want.kind == value_kind::natural;
        const bool alike = value_fits(is, want) && (!whole || from.factor == 1);
        const bool is_rounded = whole && is_number(is.kind) && from.decimals == 0;
        if ((alike || is_rounded) && !may_be_missing) {
            return true;
        }
        by_.faults().add(wiring_code::wrong_type, at,
                         must_be(name, kind_in_words(want),
                                 may_be_missing                        ? "one that may be missing"
                                 : alike || !whole || from.factor == 1 ? kind_in_words(is)
                                                                       : "a product, which may be a fraction"),
                         may_be_missing                ? "use it for a parameter that may be missing too, or in a text"
                         : whole && is_number(is.kind) ? "round it: {...:.0}"
                                                       : "use a field or state of that kind, or a constant");
        return false;
    }

    wire_checker& by_;
    const value_scope& scope_;
};

void check_object(wire_checker& by, const data* from, const value_shape& object, const std::string& whose,
                  place_in step, const value_scope& scope, const field_path& way, std::vector<parameter_plan>& into,
                  bool is_sample = false) {
    if (from != nullptr) {
        for (const keyed_data& one : from->entries) {
            if (std::none_of(object.fields.begin(), object.fields.end(),
                             [&](const named_shape& field) { return field.name == one.key; })) {
                by.faults().add(
                    wiring_code::unknown_parameter, one.key_at,
                    whose + (is_sample ? " has no field " : " has no parameter ") + in_quotes(one.key),
                    nearest_or_all(one.key, names_of(object.fields), is_sample ? "its fields" : "its parameters"));
            }
        }
    }
    for (std::size_t i = 0; i < object.fields.size(); ++i) {
        const named_shape& field = object.fields[i];
        const data* const given = from != nullptr ? from->find(field.name) : nullptr;
        field_path to = way;
        to.add(i);
        to.shape = &field.shape;
        if (given == nullptr) {
            if (!field.has_default && !is_sample) {
                by.faults().add(wiring_code::missing_parameter, from != nullptr ? from->at : step,
                                whose + " needs " + in_quotes(field.name) + ", which is " + kind_in_words(field.shape),
                                "write " + field.name + " = ... in 'parameters'");
            }
        } else if (field.shape.kind == value_kind::object && given->kind == data_kind::table) {
            check_object(by, given, field.shape, whose, given->at, scope, to, into, is_sample);
        } else if (auto value = value_checker(by, scope).value(*given, field.shape, field.name)) {
            into.push_back({to, std::move(*value)});
        }
    }
}

} // namespace

void check_sample(wire_checker& by, const data& from, const value_shape& payload, const std::string& channel,
                  std::vector<parameter_plan>& into) {
    check_object(by, &from, payload, in_quotes(channel), from.at, {}, {}, into, true);
}

void check_parameters(wire_checker& by, const data* from, const action_entry& action, place_in step,
                      const value_scope& scope, std::vector<parameter_plan>& into) {
    check_object(by, from, action.parameters, in_quotes(action.name), step, scope, {}, into);
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
