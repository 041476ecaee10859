// A small number for each type, the same in a program and all its shared
// libraries, without run-time type information.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/detail/base/type_name.hpp>

#include <atomic>
#include <cstdint>
#include <string_view>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// Two files may each have such a type of the same name.
template <class T>
inline constexpr bool has_own_name = type_name<T>().find("{anonymous}") == std::string_view::npos &&
                                     type_name<T>().find("(anonymous") == std::string_view::npos &&
                                     type_name<T>().find("<unnamed") == std::string_view::npos;

/// The number that goes with a name, from 1 on. Thread-safe.
std::uint32_t number_of_type(std::string_view name);

// Hidden, so that every shared library asks for itself and can be unloaded.
template <class T>
WIRED_COURIER_HIDDEN inline constinit std::atomic<std::uint32_t> known_number{0};

/// 0 until `number_for()` was called in this program or shared library.
template <class T>
std::uint32_t known_number_for() noexcept {
    return known_number<T>.load(std::memory_order_relaxed);
}

template <class T>
std::uint32_t number_for() {
    std::uint32_t number = known_number_for<T>();
    if (number == 0) {
        number = number_of_type(type_name<T>());
        known_number<T>.store(number, std::memory_order_relaxed);
    }
    return number;
}

template <class T>
WIRED_COURIER_HIDDEN inline constexpr char own_key = 0;

/// Tells types apart, in all shared libraries; of a type without a name of its own,
/// such as one in an unnamed namespace, by the place of something of that type's.
template <class T>
[[nodiscard]] std::uint64_t key_of_type() {
    if constexpr (has_own_name<T>) {
        return number_for<T>();
    } else {
        return reinterpret_cast<std::uintptr_t>(&own_key<T>);
    }
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
