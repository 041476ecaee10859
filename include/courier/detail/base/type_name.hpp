// A type's name, without run-time type information.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>

#include <cstddef>
#include <string>
#include <string_view>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

template <class T>
consteval std::string_view decorated_name() {
#if defined(__GNUC__)
    return __PRETTY_FUNCTION__;
#else
    return __FUNCSIG__;
#endif
}

/// What a compiler wrote for something, of a text that has it where `known` has `word`.
consteval std::string_view cut_out(std::string_view decorated, std::string_view known, std::string_view word) {
    const std::size_t before = known.find(word);
    return decorated.substr(before, decorated.size() - (known.size() - word.size()));
}

/// The type's name with its namespaces, as the compiler writes it. What stands
/// before and after it is learned from a type whose name is known.
template <class T>
consteval std::string_view type_name() {
    std::string_view name = cut_out(decorated_name<T>(), decorated_name<double>(), "double");
    if (const std::size_t more = name.find("; "); more != std::string_view::npos) {
        name = name.substr(0, more); // g++ explains its aliases here
    }
    return name;
}

/// The library's own types carry its version and options in their names: without that.
[[nodiscard]] std::string plain_type_name(std::string_view type);

} // namespace detail
WIRED_COURIER_NAMESPACE_END
