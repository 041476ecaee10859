// What g++ 12 cannot take inside of a co_await.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>

#include <type_traits>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// Before version 13, g++ destroys a closure or an aggregate that is made inside
/// of a `co_await` twice. `Given` is how it was passed, as of a forwarding
/// reference; one that has a name is an lvalue, and safe.
template <class Given>
consteval void check_temporary() {
#if defined(__GNUC__) && !defined(__clang__) && __GNUC__ < 13
    static_assert(std::is_lvalue_reference_v<Given> || std::is_trivially_destructible_v<Given>,
                  "courier: before version 13, g++ destroys what a function captures twice if the function is made "
                  "inside of a co_await: give it a name in the line before, and pass that; or capture by reference");
#endif
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
