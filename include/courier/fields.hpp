// Names a payload's fields where they cannot be found by themselves.
//
// A plain struct shows its fields without a line of code:
//
//     struct Moored { int boat; std::chrono::seconds late; std::optional<std::string> note; };
//
// That is an aggregate (no constructor, nothing private, no base) of up to 32
// members, none of which is a reference, a union or a bit-field. Where that does not
// fit, or other names are wanted:
//
//     class Lantern { public: int level; ... };
//     WIRED_COURIER_FIELDS(Lantern, level)
//     struct Tide { int f; };
//     WIRED_COURIER_FIELDS_AS(Tide, f, "fathoms")
//
// They stand right behind the type, in its namespace, at any rate before its first
// channel is made.
//
// Fields are numbers, truths, enumerations, text, durations, structs, and optionals
// and lists of these; of others nothing is known, and they are recorded as null.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/detail/base/field_table.hpp>

#include <array>
#include <cstdint>

#define WIRED_COURIER_PARENTHESES ()
#define WIRED_COURIER_EXPAND(...)                                                                                      \
    WIRED_COURIER_EXPAND_3(WIRED_COURIER_EXPAND_3(WIRED_COURIER_EXPAND_3(WIRED_COURIER_EXPAND_3(__VA_ARGS__))))
#define WIRED_COURIER_EXPAND_3(...)                                                                                    \
    WIRED_COURIER_EXPAND_2(WIRED_COURIER_EXPAND_2(WIRED_COURIER_EXPAND_2(WIRED_COURIER_EXPAND_2(__VA_ARGS__))))
#define WIRED_COURIER_EXPAND_2(...)                                                                                    \
    WIRED_COURIER_EXPAND_1(WIRED_COURIER_EXPAND_1(WIRED_COURIER_EXPAND_1(WIRED_COURIER_EXPAND_1(__VA_ARGS__))))
#define WIRED_COURIER_EXPAND_1(...) __VA_ARGS__

// macro(with, each), with commas between; up to 64.
#define WIRED_COURIER_EACH(macro, with, ...)                                                                           \
    __VA_OPT__(WIRED_COURIER_EXPAND(WIRED_COURIER_EACH_NEXT(macro, with, __VA_ARGS__)))
#define WIRED_COURIER_EACH_NEXT(macro, with, one, ...)                                                                 \
    macro(with, one) __VA_OPT__(, WIRED_COURIER_EACH_AGAIN WIRED_COURIER_PARENTHESES(macro, with, __VA_ARGS__))
#define WIRED_COURIER_EACH_AGAIN() WIRED_COURIER_EACH_NEXT
// As above, two at a time.
#define WIRED_COURIER_PAIRS(macro, with, ...)                                                                          \
    __VA_OPT__(WIRED_COURIER_EXPAND(WIRED_COURIER_PAIRS_NEXT(macro, with, __VA_ARGS__)))
#define WIRED_COURIER_PAIRS_NEXT(macro, with, one, other, ...)                                                         \
    macro(with, one, other) __VA_OPT__(, WIRED_COURIER_PAIRS_AGAIN WIRED_COURIER_PARENTHESES(macro, with, __VA_ARGS__))
#define WIRED_COURIER_PAIRS_AGAIN() WIRED_COURIER_PAIRS_NEXT

#define WIRED_COURIER_MEMBER(Payload, member) &Payload::member
#define WIRED_COURIER_MEMBER_NAME(Payload, member) #member
#define WIRED_COURIER_FIRST(Payload, member, name) &Payload::member
#define WIRED_COURIER_SECOND(Payload, member, name) name
#define WIRED_COURIER_VALUE(Enumeration, value)                                                                        \
    ::courier::detail::enum_value {                                                                                    \
        #value, static_cast<::std::int64_t>(Enumeration::value)                                                        \
    }
#define WIRED_COURIER_VALUE_AS(Enumeration, value, name)                                                               \
    ::courier::detail::enum_value {                                                                                    \
        name, static_cast<::std::int64_t>(Enumeration::value)                                                          \
    }

/// The type, and its fields.
#define WIRED_COURIER_FIELDS(Payload, ...)                                                                             \
    [[maybe_unused]] constexpr auto wired_courier_members(const Payload*) {                                            \
        return ::courier::detail::named_members<WIRED_COURIER_EACH(WIRED_COURIER_MEMBER, Payload, __VA_ARGS__)>{       \
            {WIRED_COURIER_EACH(WIRED_COURIER_MEMBER_NAME, Payload, __VA_ARGS__)}};                                    \
    }

/// The type, and its fields, each followed by what it is called: `boat, "hull"`.
#define WIRED_COURIER_FIELDS_AS(Payload, ...)                                                                          \
    [[maybe_unused]] constexpr auto wired_courier_members(const Payload*) {                                            \
        return ::courier::detail::named_members<WIRED_COURIER_PAIRS(WIRED_COURIER_FIRST, Payload, __VA_ARGS__)>{       \
            {WIRED_COURIER_PAIRS(WIRED_COURIER_SECOND, Payload, __VA_ARGS__)}};                                        \
    }

/// Nothing is to be known of the type's fields.
#define WIRED_COURIER_NO_FIELDS(Payload)                                                                               \
    [[maybe_unused]] constexpr ::courier::detail::no_members wired_courier_members(const Payload*) {                   \
        return {};                                                                                                     \
    }

/// The values of an enumeration, where they cannot be found by themselves: of an
/// `enum` that is neither scoped nor has a type, and those below 0 or above 63.
#define WIRED_COURIER_ENUM(Enumeration, ...)                                                                           \
    [[maybe_unused]] constexpr auto wired_courier_values(const Enumeration*) {                                         \
        return ::courier::detail::named_values{                                                                        \
            ::std::array{WIRED_COURIER_EACH(WIRED_COURIER_VALUE, Enumeration, __VA_ARGS__)}};                          \
    }

/// The values of an enumeration, each followed by what it is called: `north, "from the north"`.
#define WIRED_COURIER_ENUM_AS(Enumeration, ...)                                                                        \
    [[maybe_unused]] constexpr auto wired_courier_values(const Enumeration*) {                                         \
        return ::courier::detail::named_values{                                                                        \
            ::std::array{WIRED_COURIER_PAIRS(WIRED_COURIER_VALUE_AS, Enumeration, __VA_ARGS__)}};                      \
    }
