// A small number for each type, the same in a program and all its shared
// libraries, without run-time type information.
#pragma once

#include <courier/config.hpp>

#include <atomic>
#include <cstdint>
#include <string_view>

namespace courier::inline WIRED_COURIER_ABI::detail {

template <class T>
consteval std::string_view decorated_name() {
#if defined(__GNUC__)
    return __PRETTY_FUNCTION__;
#else
    return __FUNCSIG__;
#endif
}

/// The type's name with its namespaces, as the compiler writes it. What stands
/// before and after it is learned from a type whose name is known.
template <class T>
consteval std::string_view type_name() {
    constexpr std::string_view known = decorated_name<double>();
    constexpr std::size_t before = known.find("double");
    constexpr std::size_t after = known.size() - before - std::string_view{"double"}.size();
    std::string_view name = decorated_name<T>();
    name.remove_prefix(before);
    name.remove_suffix(after);
    if (const std::size_t more = name.find("; "); more != std::string_view::npos) {
        name = name.substr(0, more); // g++ explains its aliases here
    }
    return name;
}

/// Two files may each have such a type of the same name.
template <class T>
inline constexpr bool
    has_own_name = type_name<T>().find("{anonymous}") == std::string_view::npos&& type_name<T>().find("(anonymous") ==
                   std::string_view::npos&& type_name<T>().find("<unnamed") == std::string_view::npos;

/// The number that goes with a name, from 1 on. Thread-safe.
std::uint32_t number_of_type(std::string_view name);

// Hidden, so that every shared library asks for itself and can be unloaded.
template <class T>
#if defined(__GNUC__)
__attribute__((visibility("hidden")))
#endif
inline constinit std::atomic<std::uint32_t>
    known_number{0};

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

} // namespace courier::inline WIRED_COURIER_ABI::detail
