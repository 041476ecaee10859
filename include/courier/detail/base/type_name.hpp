// A type's name, without run-time type information.
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

/// The library's own types carry its version and options in their names: without that.
[[nodiscard]] std::string plain_type_name(std::string_view type);

} // namespace detail
WIRED_COURIER_NAMESPACE_END
