// SPDX-License-Identifier: MIT
#include "wiring/run/values.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <cstring>
#include <iterator>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

/// Of a constant that was checked against the type.
plain_value plain_of(const constant& from, const value_type& type) {
    plain_value made;
    switch (type.kind) {
    case value_kind::truth:
        made.truth = from.truth;
        break;
    case value_kind::integer:
        made.integer = from.integer;
        break;
    case value_kind::natural:
        made.natural = from.natural;
        break;
    case value_kind::enumeration:
        made.integer = type.values[static_cast<std::size_t>(from.integer)].value;
        break;
    default:
        made.real = from.real;
        break;
    }
    return made;
}

const value_type& without_optional(const value_type& type) noexcept {
    return type.kind == value_kind::optional ? *type.inner : type;
}

template <class T>
bool ordered(const T& is, const T& with, test_op op) noexcept {
    switch (op) {
    case test_op::not_equal:
        return !(is == with);
    case test_op::below:
        return is < with;
    case test_op::at_most:
        return is <= with;
    case test_op::above:
        return is > with;
    case test_op::at_least:
        return is >= with;
    default:
        return is == with;
    }
}

} // namespace

live_test::live_test(const condition_plan& plan, const cause_base& cause, const name_finder& find) : op_(plan.op) {
    if (plan.state.empty()) {
        field_ = reach(*cause.fields, plan.field, !cause.fields->can_write);
    } else {
        state_ = find.state(plan.state);
        field_ = reach(without_optional(*state_->state));
    }
    kind_ = field_.type().kind;
    for (const constant& one : plan.values) {
        values_.push_back({plain_of(one, field_.type()), one.text});
    }
    make_range();
}

void live_test::make_range() {
    const bool is_natural = kind_ == value_kind::natural;
    const bool is_integer = kind_ == value_kind::integer || kind_ == value_kind::enumeration;
    if (state_ != nullptr || !field_.is_fixed() || op_ == test_op::one_of || !(is_natural || is_integer)) {
        return;
    }
    const plain_value& with = values_.front().value;
    const std::uint64_t value = is_natural ? with.natural : static_cast<std::uint64_t>(with.integer);
    const std::uint64_t lowest = is_natural ? 0 : std::uint64_t{1} << 63U; // of 64 bits, with or without a sign
    const std::uint64_t highest = lowest - 1;
    const bool is_first = value == lowest;
    const bool is_last = value == highest;
    if ((op_ == test_op::below && is_first) || (op_ == test_op::above && is_last)) {
        return; // no range has nothing in it
    }
    const bool up_to = op_ == test_op::below || op_ == test_op::at_most;
    const bool from = op_ == test_op::above || op_ == test_op::at_least;
    const std::uint64_t least = up_to ? lowest : op_ == test_op::above ? value + 1 : value;
    const std::uint64_t most = from ? highest : op_ == test_op::below ? value - 1 : value;
    range_ = number_range(field_.offset(), field_.type(), least, most, op_ == test_op::not_equal);
    is_range_ = true;
}

bool live_test::compare(const plain_value& is, const wanted& with, test_op op) const noexcept {
    switch (kind_) {
    case value_kind::truth:
        return ordered(is.truth, with.value.truth, op);
    case value_kind::integer:
    case value_kind::enumeration:
        return ordered(is.integer, with.value.integer, op);
    case value_kind::natural:
        return ordered(is.natural, with.value.natural, op);
    case value_kind::text:
        return ordered(is.text, std::string_view(with.text), op);
    default:
        return ordered(is.real, with.value.real, op);
    }
}

bool live_test::compare_all(const void* payload) const noexcept {
    const void* const at = field_.in(state_ == nullptr ? payload : state_->value());
    if (at == nullptr) {
        return false; // what is not there is neither this nor that
    }
    const plain_value is = read_plain(field_.type(), at);
    if (op_ != test_op::one_of) [[likely]] {
        return compare(is, values_.front(), op_);
    }
    return std::any_of(values_.begin(), values_.end(),
                       [&](const wanted& one) { return compare(is, one, test_op::equal); });
}

live_value::live_value(const value_plan& plan, const value_type& into, const cause_base& cause,
                       const value_type* answer, const name_finder& find)
    : from_(plan.from), into_(&into), text_(plan.value.text), factor_(plan.factor), decimals_(plan.decimals) {
    switch (from_) {
    case value_origin::constant:
        if (into.kind != value_kind::text) {
            constant_ = plain_of(plan.value, into);
        }
        return;
    case value_origin::text:
        for (const value_plan& piece : plan.pieces) {
            pieces_.emplace_back(piece, into, cause, answer, find);
            needs_answer_ = needs_answer_ || pieces_.back().needs_answer_;
        }
        return;
    case value_origin::field:
        field_ = reach(*cause.fields, plan.field, !cause.fields->can_write);
        break;
    case value_origin::state:
        state_ = find.state(plan.state);
        field_ = reach(without_optional(*state_->state));
        break;
    case value_origin::why:
        needs_answer_ = true;
        field_ = reach(known<std::string>::type);
        break;
    case value_origin::answer:
        needs_answer_ = true;
        field_ = plan.field.size == 0 ? reach(without_optional(*answer)) : reach(*answer->fields, plan.field, false);
        break;
    }
    const value_type& type = field_.type();
    copies_ = type.kind == into.kind && type.size == into.size && type.is_plain && factor_ == 1 && decimals_ < 0 &&
              into.kind != value_kind::text &&
              (into.kind != value_kind::duration || (type.unit == into.unit && type.inner == into.inner));
}

const void* live_value::source(const value_sources& sources) const noexcept {
    switch (from_) {
    case value_origin::state:
        return field_.in(state_->value());
    case value_origin::answer:
        return sources.answer != nullptr ? field_.in(sources.answer) : nullptr;
    case value_origin::why:
        return sources.why;
    default:
        return sources.payload != nullptr ? field_.in(sources.payload) : nullptr;
    }
}

double live_value::number(const void* at) const noexcept {
    const plain_value is = read_plain(field_.type(), at);
    const value_kind kind = field_.type().kind;
    const double value = kind == value_kind::integer   ? static_cast<double>(is.integer)
                         : kind == value_kind::natural ? static_cast<double>(is.natural)
                                                       : is.real;
    return value * factor_;
}

void live_value::append(const value_sources& sources, std::string& to) const {
    if (from_ == value_origin::constant) {
        to += text_;
        return;
    }
    const void* const at = source(sources);
    if (at == nullptr) {
        to += "nothing";
        return;
    }
    const value_type& type = field_.type();
    const plain_value is = read_plain(type, at);
    const auto out = std::back_inserter(to);
    switch (type.kind) {
    case value_kind::truth:
        to += is.truth ? "yes" : "no";
        return;
    case value_kind::text:
        to += is.text;
        return;
    case value_kind::enumeration:
        if (const std::string_view name = name_of_value(type, is.integer); !name.empty()) {
            to += name;
        } else {
            fmt::format_to(out, "{}", is.integer);
        }
        return;
    case value_kind::integer:
    case value_kind::natural:
        if (factor_ == 1 && decimals_ < 0) {
            type.kind == value_kind::integer ? fmt::format_to(out, "{}", is.integer)
                                             : fmt::format_to(out, "{}", is.natural);
            return;
        }
        [[fallthrough]];
    default:
        if (decimals_ < 0) {
            fmt::format_to(out, "{}", number(at));
        } else {
            fmt::format_to(out, "{:.{}f}", number(at), decimals_);
        }
    }
}

bool live_value::convert(const void* from, void* into, std::string& why) const {
    const value_type& type = field_.type();
    plain_value made = read_plain(type, from);
    const bool whole = into_->kind == value_kind::integer || into_->kind == value_kind::natural;
    if (whole && (factor_ != 1 || type.kind == value_kind::real)) {
        const double rounded = std::round(number(from));
        if (!(std::abs(rounded) < 9.2e18) || (rounded < 0 && into_->kind == value_kind::natural)) {
            why = fmt::format("{} does not fit", rounded);
            return false;
        }
        into_->kind == value_kind::integer ? void(made.integer = static_cast<std::int64_t>(rounded))
                                           : void(made.natural = static_cast<std::uint64_t>(rounded));
    } else if (whole && type.kind != into_->kind) { // the same bits, if it has no sign
        if (made.integer < 0) {
            why = "a number does not fit";
            return false;
        }
    } else if (into_->kind == value_kind::real || into_->kind == value_kind::duration) {
        made.real = number(from);
    }
    if (!write_plain(*into_, into, made)) {
        why = "a number does not fit";
        return false;
    }
    return true;
}

bool live_value::write(const value_sources& sources, void* into, std::string& why) const {
    if (from_ == value_origin::constant) {
        plain_value made = constant_;
        if (into_->kind == value_kind::text) {
            made.text = text_;
        }
        return write_plain(*into_, into, made);
    }
    if (from_ == value_origin::text) {
        std::string made;
        for (const live_value& piece : pieces_) {
            piece.append(sources, made);
        }
        plain_value text;
        text.text = made;
        if (!write_plain(*into_, into, text)) {
            why = "a text is too long";
            return false;
        }
        return true;
    }
    const void* const at = source(sources);
    if (at == nullptr) {
        why = "a value is not there";
        return false;
    }
    if (copies_) [[likely]] {
        std::memcpy(into, at, into_->size);
        return true;
    }
    return convert(at, into, why);
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
