// Names a payload's fields, so that recordings hold them by name. One line
// behind the payload, in its namespace:
//
//     struct Moored { int boat; int cargo; };
//     WIRED_COURIER_FIELDS(Moored, boat, cargo)
//
// It must stand before the payload's first channel is made, best right behind
// the payload. Built on Boost.Describe: what that has described is known, too,
// also inside of other payloads.
#pragma once

#include <courier/change.hpp>
#include <courier/config.hpp>
#include <courier/recording/detail/field_table.hpp>

#include <boost/describe.hpp>

/// The payload, and its fields. Fields are numbers, enumerations, text,
/// durations, described structs, and optionals and ranges of these; others are
/// recorded as null.
#define WIRED_COURIER_FIELDS(Payload, ...)                                                                             \
    BOOST_DESCRIBE_STRUCT(Payload, (), (__VA_ARGS__))                                                                  \
    [[maybe_unused]] constexpr const ::courier::detail::field_table* wired_courier_fields(const Payload*) {            \
        return &::courier::detail::table_of<Payload>;                                                                  \
    }

/// An enumeration whose values are recorded by name; others are recorded as numbers.
#define WIRED_COURIER_ENUM(Enumeration, ...) BOOST_DESCRIBE_ENUM(Enumeration, __VA_ARGS__)

WIRED_COURIER_NAMESPACE_BEGIN

/// The changes of states whose values can be recorded, with their fields
/// `before` and `after`.
template <class T>
    requires(detail::can_be_packed<T>())
constexpr const detail::field_table* wired_courier_fields(const change<T>*) {
    return &detail::change_table<T>;
}

WIRED_COURIER_NAMESPACE_END
