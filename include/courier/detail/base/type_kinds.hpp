// What kind of value a type is: a text, a duration, a list, a struct with fields.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/detail/base/members.hpp>
#include <courier/detail/base/value_type.hpp>

#include <array>
#include <cstddef>
#include <string_view>
#include <type_traits>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// What WIRED_COURIER_FIELDS makes: the members that are named, and their names.
template <auto... Members>
struct named_members {
    std::array<std::string_view, sizeof...(Members)> names;
};

/// What WIRED_COURIER_NO_FIELDS makes.
struct no_members {};

/// What WIRED_COURIER_ENUM makes.
template <std::size_t Count>
struct named_values {
    std::array<enum_value, Count> values;
};
template <std::size_t Count>
named_values(std::array<enum_value, Count>) -> named_values<Count>;

// clang-format off
template <class T>
concept names_members = requires { wired_courier_members(static_cast<const T*>(nullptr)); };
template <class T>
concept names_values = requires { wired_courier_values(static_cast<const T*>(nullptr)); };
// clang-format on
template <class T>
concept like_text = std::is_convertible_v<const T&, std::string_view>;
template <class T>
concept like_duration = requires(const T& value) {
    typename T::rep;
    T::period::num;
    T::period::den;
    value.count();
};
template <class T>
concept like_optional = requires(T& value) {
    typename T::value_type;
    value.has_value();
    value.reset();
    *value;
};
template <class T>
concept like_range = requires(const T& value) {
    value.begin() != value.end();
    ++std::declval<decltype(value.begin())&>();
    *value.begin();
};
// clang-format off
template <class T>
concept like_list = std::is_array_v<T> || (like_range<T> && !like_text<T>);
// clang-format on

template <class T>
struct item_of {
    using type = std::remove_cvref_t<decltype(*std::declval<const T&>().begin())>;
};
template <class T, std::size_t Count>
struct item_of<T[Count]> {
    using type = std::remove_cv_t<T>;
};

/// Of what the library itself hands on, and of structs.
template <class T>
consteval bool has_fields() {
    if constexpr (names_members<T>) {
        using named = decltype(wired_courier_members(static_cast<const T*>(nullptr)));
        return !std::is_same_v<named, no_members>;
    } else if constexpr (requires { typename T::courier_errand; } || like_text<T> || like_duration<T> ||
                         like_optional<T> || like_range<T>) {
        return false; // the library's own errands, and values
    } else {
        return has_plain_members<T>();
    }
}

/// What holds a list of its own kind is made of itself, so these are declared first.
template <class T>
struct WIRED_COURIER_HIDDEN known {
    static const value_type type;
    static const field_table table;
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
