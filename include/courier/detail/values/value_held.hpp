// How the value of a state or formula gives way to another one.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/detail/base/in_use.hpp>

#include <new>
#include <optional>
#include <type_traits>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// Puts `fresh` in the place of `value`, and returns what was there, for
/// whoever calls to destroy when everything else is done. Nothing has changed
/// when one of them cannot be moved.
template <class T>
T replace(T& value, std::type_identity_t<T>&& fresh) {
    T before(std::move_if_noexcept(value));
    if constexpr (std::is_nothrow_move_assignable_v<T> || !std::is_nothrow_move_constructible_v<T>) {
        value = std::move(fresh);
    } else {
        value.~T(); // such as one with const members
        ::new (&value) T(std::move(fresh));
    }
    return before;
}

template <class T>
void replace(std::optional<T>& value, std::type_identity_t<T>&& fresh) {
    if (!is_quiet<T> && value) {
        [[maybe_unused]] const T before = replace(*value, std::move(fresh));
    } else {
        value.emplace(std::move(fresh));
    }
}

/// Leaves `value` empty before what was in it is destroyed.
template <class T>
std::optional<T> take_out(std::optional<T>& value) {
    std::optional<T> taken(std::move(value));
    value.reset(); // NOLINT(bugprone-use-after-move): there is still something in it
    return taken;
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
