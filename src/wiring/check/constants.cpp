// SPDX-License-Identifier: MIT
// Constants of the types that are wanted.
#include "wiring/check/checker.hpp"

#include <algorithm>
#include <array>
#include <charconv>
#include <cmath>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

std::string in_quotes(std::string_view name) {
    return "'" + std::string(name) + "'";
}

std::string must_be(std::string_view name, std::string_view wanted, std::string_view given) {
    return in_quotes(name) + " must be " + std::string(wanted) + ", but this is " + std::string(given);
}

std::string nearest_or_all(std::string_view name, const std::vector<std::string>& names, std::string_view there_is) {
    if (std::string near = did_you_mean(name, names); !near.empty()) {
        return near;
    }
    if (names.empty()) {
        return "there are none";
    }
    return std::string(there_is) + ": " + list_of(names, most_listed);
}

std::span<const data> one_or_several(const data& from) {
    return from.kind == data_kind::list ? std::span<const data>(from.items) : std::span<const data>(&from, 1);
}

bool is_simple(value_kind kind) noexcept {
    return kind <= value_kind::duration;
}

std::optional<double> wire_checker::seconds(const data& from) {
    if (from.is_number()) {
        return from.number();
    }
    if (from.kind == data_kind::text) {
        double number = 0;
        const char* const end = from.text.data() + from.text.size();
        const auto [past, error] = std::from_chars(from.text.data(), end, number);
        std::string_view unit(past, static_cast<std::size_t>(end - past));
        while (!unit.empty() && unit.front() == ' ') {
            unit.remove_prefix(1);
        }
        constexpr std::array<std::pair<std::string_view, double>, 4> units{
            {{"ms", 1e-3}, {"s", 1}, {"min", 60}, {"h", 3600}}};
        for (const auto& [name, worth] : units) {
            if (error == std::errc{} && unit == name) {
                return number * worth;
            }
        }
    }
    faults_.add(wiring_code::wrong_type, from.at, "not a time",
                R"(write seconds, or a text with a unit: 2, "500 ms", "2.5 s", "3 min" or "1 h")");
    return std::nullopt;
}

namespace {

std::string how_to_write(value_kind kind) {
    switch (kind) {
    case value_kind::truth:
        return "write true or false, without quotation marks";
    case value_kind::integer:
    case value_kind::natural:
        return "write a number without decimals and quotation marks";
    case value_kind::real:
        return "write a number, without quotation marks";
    case value_kind::enumeration:
    case value_kind::text:
        return "write it in quotation marks";
    default:
        return {};
    }
}

std::optional<constant> refuse(wire_checker& by, const data& from, const value_shape& shape, std::string_view name) {
    by.faults().add(wiring_code::wrong_type, from.at, must_be(name, kind_in_words(shape), told(from.kind)),
                    how_to_write(shape.kind));
    return std::nullopt;
}

std::optional<constant> number_out_of_range(wire_checker& by, const data& from, const value_shape& shape,
                                            std::string_view name) {
    by.faults().add(wiring_code::out_of_range, from.at,
                    must_be(name, range_in_words(shape), std::to_string(from.integer)), "give a number of that range");
    return std::nullopt;
}

std::optional<constant> whole_number(wire_checker& by, const data& from, const value_shape& shape,
                                     std::string_view name) {
    if (from.kind != data_kind::integer) {
        return refuse(by, from, shape, name);
    }
    const bool too_low = from.integer < (shape.kind == value_kind::natural ? 0 : shape.least);
    if (too_low || (from.integer > 0 && static_cast<std::uint64_t>(from.integer) > shape.most)) {
        return number_out_of_range(by, from, shape, name);
    }
    constant made;
    made.integer = from.integer;
    made.natural = static_cast<std::uint64_t>(from.integer);
    return made;
}

std::optional<constant> named_value(wire_checker& by, const data& from, const value_shape& shape,
                                    std::string_view name) {
    if (from.kind != data_kind::text) {
        return refuse(by, from, shape, name);
    }
    const auto found = std::find(shape.values.begin(), shape.values.end(), from.text);
    if (found == shape.values.end()) {
        by.faults().add(wiring_code::unknown_value, from.at, in_quotes(name) + " has no value " + in_quotes(from.text),
                        nearest_or_all(from.text, shape.values, "its values"));
        return std::nullopt;
    }
    constant made;
    made.integer = found - shape.values.begin();
    made.text = from.text;
    return made;
}

} // namespace

std::optional<constant> constant_of(wire_checker& by, const data& from, const value_shape& shape,
                                    std::string_view name) {
    constant made;
    switch (shape.kind) {
    case value_kind::truth:
        if (from.kind != data_kind::truth) {
            return refuse(by, from, shape, name);
        }
        made.truth = from.truth;
        return made;
    case value_kind::integer:
    case value_kind::natural:
        return whole_number(by, from, shape, name);
    case value_kind::real:
        if (!from.is_number()) {
            return refuse(by, from, shape, name);
        }
        made.real = from.number();
        return made;
    case value_kind::enumeration:
        return named_value(by, from, shape, name);
    case value_kind::text:
        if (from.kind != data_kind::text) {
            return refuse(by, from, shape, name);
        }
        made.text = from.text;
        return made;
    case value_kind::duration:
        if (const std::optional<double> time = by.seconds(from)) {
            made.real = *time;
            return made;
        }
        return std::nullopt;
    case value_kind::optional:
        return constant_of(by, from, shape.inner.front(), name);
    default:
        return refuse(by, from, shape, name);
    }
}

} // namespace detail

WIRED_COURIER_NAMESPACE_END
