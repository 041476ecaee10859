// Which members of a struct have an initializer.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/detail/base/type_kinds.hpp>

#include <type_traits>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// False, or no constant expression, for a member to which its struct gives no value.
/// Texts and lists are empty without an initializer, so that only others count.
template <class Member>
constexpr bool starts_with_value(const Member& member) {
    if constexpr (like_optional<Member>) {
        return true;
    } else if constexpr (std::is_pointer_v<Member>) {
        return member != nullptr;
    } else if constexpr (like_text<Member>) {
        return !std::string_view(member).empty();
    } else if constexpr (std::is_array_v<Member>) {
        return starts_with_value(member[0]);
    } else if constexpr (like_range<Member>) {
        return member.begin() != member.end();
    } else if constexpr (std::is_trivially_copyable_v<Member>) {
        [[maybe_unused]] const Member read = member;
        return true;
    } else {
        return false; // copying it may not compile
    }
}

/// Defaults are found by a constant expression that reads what `T object;` leaves in a
/// member (P1331R2 allows it to declare the object, and not to read what has no value).
template <class T, class Read>
    requires(std::is_default_constructible_v<T>)
constexpr bool starts_so(Read read) {
    T object;
    return read(object);
}
template <bool>
struct constant_truth {};

// clang-format off
template <class T, class Read>
concept reads_default = requires { typename constant_truth<starts_so<T>(Read())>; } && starts_so<T>(Read());
/// All members that are numbers or the like have an initializer.
template <class T>
concept gives_all_values = requires { new const T; };
template <class T>
concept is_made_in_constants = requires { typename constant_truth<starts_so<T>([](const T&) { return true; })>; };
// clang-format on

/// `Read` reads the member. A struct with a member that is not for constant expressions,
/// such as a map, has defaults when all of it has.
template <class T, class Member, class Read>
consteval bool has_default() {
    if constexpr (like_optional<Member> || reads_default<T, Read>) {
        return true;
    } else if constexpr (!is_made_in_constants<T> && !like_text<Member> && !like_list<Member>) {
        return gives_all_values<T>;
    } else {
        return false;
    }
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
