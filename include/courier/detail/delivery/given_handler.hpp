// The ways to give subscribe() a handler: itself, a member function with its object, or a free function. All are one
// function, so that a mistake in its options is not answered with a list of functions that were not meant.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/delivery_options.hpp>
#include <courier/detail/delivery/handler.hpp>

#include <cstddef>
#include <type_traits>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

template <class T>
concept has_payload = requires { typename T::payload_type; };

/// The payload of a source, or of what was taken for one.
template <class Source>
struct payload_of_source {
    using type = std::nullptr_t;
};
template <has_payload Source>
struct payload_of_source<Source> {
    using type = typename Source::payload_type;
};

/// Takes the argument behind one that is refused already.
struct any_argument {
    any_argument() = default;
    template <class T>
    any_argument(const T&) {} // NOLINT(google-explicit-constructor): of any type
};
template <class Payload, class Object>
using options_after = std::conditional_t<std::is_member_function_pointer_v<std::decay_t<Object>>, any_argument,
                                         delivery_options<Payload>>;
template <class Source, class Object = void>
using options_of = options_after<typename payload_of_source<Source>::type, Object>;

/// What subscribe<Function...>(object, options) was given: a handler itself. take_options() moves options that come
/// first to where the others are.
template <class Object, auto... Function>
struct given_handler {
    using type = std::decay_t<Object>;
    static constexpr bool is_in_brackets = !std::is_member_function_pointer_v<type>;
    static constexpr bool is_of_object = true;
    static constexpr bool options_come_first = false;

    static type make(Object&& object) { return type(std::forward<Object>(object)); }
    template <class Options>
    static void take_options(Object&&, Options&) {}
};

/// A member function, with its object.
template <class Object, auto Method>
    requires std::is_member_function_pointer_v<decltype(Method)>
struct given_handler<Object, Method> {
    using type = member_call<Method, std::remove_reference_t<Object>>;
    static constexpr bool is_in_brackets = true;
    static constexpr bool options_come_first = false;
    static constexpr bool is_of_object = std::is_lvalue_reference_v<Object> && !std::is_pointer_v<std::decay_t<Object>>;

    static type make(Object&& object) { return type{&object}; }
    template <class Options>
    static void take_options(Object&&, Options&) {}
};

/// A free function, which needs no object: the options come first.
template <class Object, auto Function>
    requires std::is_pointer_v<decltype(Function)>
struct given_handler<Object, Function> {
    using type = function_call<Function>;
    static constexpr bool is_in_brackets = true;
    static constexpr bool is_of_object = true;
    static constexpr bool options_come_first = true;

    static type make(Object&&) { return {}; }
    template <class Options>
    static void take_options(Object&& first, Options& into) {
        into = std::forward<Object>(first);
    }
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
