// Payloads, states and enumerations as words for logs and debug displays.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/data/json.hpp>

#include <string>
#include <type_traits>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

[[nodiscard]] std::string words_of(const value_type& type, const void* value);

} // namespace detail

/// "barge 3, berth north, late 1.5 s": the fields of a struct by name; lists as
/// "[3, 5]", structs inside as "at (x 1, y 2)", an empty optional as "nothing". A single
/// value stands alone: "whale", "2.5", "0.5 s". Not to be read back; see to_json().
/// `from` is a payload or another value with known fields, or a state or a formula.
/// From any thread that may read it.
template <class T>
[[nodiscard]] std::string in_words(const T& from) {
    if constexpr (detail::holds_value<T>) {
        const auto& value = from.glance();
        return detail::words_of(detail::type_to_write<std::remove_cvref_t<decltype(value)>>(), &value);
    } else {
        return detail::words_of(detail::type_to_write<T>(), &from);
    }
}

WIRED_COURIER_NAMESPACE_END
