// The names of an enum's values, without a line of code.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/detail/base/type_name.hpp>

#include <array>
#include <cstddef>
#include <string_view>
#include <type_traits>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

template <auto Value>
consteval std::string_view decorated_value() {
#if defined(__GNUC__)
    return __PRETTY_FUNCTION__;
#else
    return __FUNCSIG__;
#endif
}

/// As it is declared, without what it is in; empty for a number that has no
/// name. Compilers write such a number as a cast: "(reef::watch)7".
template <auto Value>
consteval std::string_view enum_name() {
    std::string_view name = cut_out(decorated_value<Value>(), decorated_value<true>(), "true");
    if (const std::size_t cast = name.rfind(')');
        cast != std::string_view::npos && name.find_first_not_of("-0123456789", cast + 1) == std::string_view::npos) {
        return {};
    }
    if (const std::size_t colon = name.rfind(':'); colon != std::string_view::npos) {
        name.remove_prefix(colon + 1);
    }
    return name;
}

/// Values from 0 on are looked at, as many as a word has bits.
inline constexpr std::size_t most_enum_values = 64;

template <class Enum, std::size_t... I>
consteval auto names_of_enum(std::index_sequence<I...>) {
    return std::array<std::string_view, sizeof...(I)>{enum_name<static_cast<Enum>(I)>()...};
}

/// By value; empty where there is none.
template <class Enum>
inline constexpr auto enum_names = names_of_enum<Enum>(std::make_index_sequence<most_enum_values>());

/// The greatest value with a name, and one; 0 when none has.
template <class Enum>
consteval std::size_t enum_end() {
    std::size_t end = most_enum_values;
    while (end != 0 && enum_names<Enum>[end - 1].empty()) {
        --end;
    }
    return end;
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
