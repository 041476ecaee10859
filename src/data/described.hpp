// Structs of the library's own that describe their members to readers and writers.
#pragma once

#include <courier/config.hpp>

#include <string_view>

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

} // namespace detail
WIRED_COURIER_NAMESPACE_END
