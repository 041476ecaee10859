// Structs of the library's own that describe their members to readers and writers.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>

#include <string_view>
#include <type_traits>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

inline constexpr bool always = true;

/// A member, as its struct's function `data` names it to a visitor. One that is not always
/// there is left out where it is zero, false or empty.
struct field {
    std::string_view key;
    std::string_view says = {};
    bool is_always_there = false;
};

/// How a struct that is declared elsewhere describes its members: a specialisation for each.
template <class T>
struct description;

template <class T>
concept describes_itself = requires(T& one, int& with) { T::data(one, with); };
template <class T>
concept has_data = describes_itself<T> || requires(T& one, int& with) { description<T>::data(one, with); };

/// Visits the members of a struct that describes itself, or is described.
template <class T, class With>
void visit_data(T& one, With& with) {
    if constexpr (describes_itself<T>) {
        T::data(one, with);
    } else {
        description<std::remove_const_t<T>>::data(one, with);
    }
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
