// The members of a plain struct, found without its help: how many there are, where
// they lie and what they are called.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/detail/base/type_name.hpp>

#include <array>
#include <cstddef>
#include <string_view>
#include <type_traits>
#include <utility>

// What C++20 has no loops for: so many empty braces, and so many names.

#define WIRED_COURIER_BRACES_0
#define WIRED_COURIER_BRACES_1 {},
#define WIRED_COURIER_BRACES_2 WIRED_COURIER_BRACES_1{},
#define WIRED_COURIER_BRACES_3 WIRED_COURIER_BRACES_2{},
#define WIRED_COURIER_BRACES_4 WIRED_COURIER_BRACES_3{},
#define WIRED_COURIER_BRACES_5 WIRED_COURIER_BRACES_4{},
#define WIRED_COURIER_BRACES_6 WIRED_COURIER_BRACES_5{},
#define WIRED_COURIER_BRACES_7 WIRED_COURIER_BRACES_6{},
#define WIRED_COURIER_BRACES_8 WIRED_COURIER_BRACES_7{},
#define WIRED_COURIER_BRACES_9 WIRED_COURIER_BRACES_8{},
#define WIRED_COURIER_BRACES_10 WIRED_COURIER_BRACES_9{},
#define WIRED_COURIER_BRACES_11 WIRED_COURIER_BRACES_10{},
#define WIRED_COURIER_BRACES_12 WIRED_COURIER_BRACES_11{},
#define WIRED_COURIER_BRACES_13 WIRED_COURIER_BRACES_12{},
#define WIRED_COURIER_BRACES_14 WIRED_COURIER_BRACES_13{},
#define WIRED_COURIER_BRACES_15 WIRED_COURIER_BRACES_14{},
#define WIRED_COURIER_BRACES_16 WIRED_COURIER_BRACES_15{},
#define WIRED_COURIER_BRACES_17 WIRED_COURIER_BRACES_16{},
#define WIRED_COURIER_BRACES_18 WIRED_COURIER_BRACES_17{},
#define WIRED_COURIER_BRACES_19 WIRED_COURIER_BRACES_18{},
#define WIRED_COURIER_BRACES_20 WIRED_COURIER_BRACES_19{},
#define WIRED_COURIER_BRACES_21 WIRED_COURIER_BRACES_20{},
#define WIRED_COURIER_BRACES_22 WIRED_COURIER_BRACES_21{},
#define WIRED_COURIER_BRACES_23 WIRED_COURIER_BRACES_22{},
#define WIRED_COURIER_BRACES_24 WIRED_COURIER_BRACES_23{},
#define WIRED_COURIER_BRACES_25 WIRED_COURIER_BRACES_24{},
#define WIRED_COURIER_BRACES_26 WIRED_COURIER_BRACES_25{},
#define WIRED_COURIER_BRACES_27 WIRED_COURIER_BRACES_26{},
#define WIRED_COURIER_BRACES_28 WIRED_COURIER_BRACES_27{},
#define WIRED_COURIER_BRACES_29 WIRED_COURIER_BRACES_28{},
#define WIRED_COURIER_BRACES_30 WIRED_COURIER_BRACES_29{},
#define WIRED_COURIER_BRACES_31 WIRED_COURIER_BRACES_30{},
#define WIRED_COURIER_BRACES_32 WIRED_COURIER_BRACES_31{},
#define WIRED_COURIER_BRACES_33 WIRED_COURIER_BRACES_32{},
#define WIRED_COURIER_NAMES_1 m1
#define WIRED_COURIER_NAMES_2 WIRED_COURIER_NAMES_1, m2
#define WIRED_COURIER_NAMES_3 WIRED_COURIER_NAMES_2, m3
#define WIRED_COURIER_NAMES_4 WIRED_COURIER_NAMES_3, m4
#define WIRED_COURIER_NAMES_5 WIRED_COURIER_NAMES_4, m5
#define WIRED_COURIER_NAMES_6 WIRED_COURIER_NAMES_5, m6
#define WIRED_COURIER_NAMES_7 WIRED_COURIER_NAMES_6, m7
#define WIRED_COURIER_NAMES_8 WIRED_COURIER_NAMES_7, m8
#define WIRED_COURIER_NAMES_9 WIRED_COURIER_NAMES_8, m9
#define WIRED_COURIER_NAMES_10 WIRED_COURIER_NAMES_9, m10
#define WIRED_COURIER_NAMES_11 WIRED_COURIER_NAMES_10, m11
#define WIRED_COURIER_NAMES_12 WIRED_COURIER_NAMES_11, m12
#define WIRED_COURIER_NAMES_13 WIRED_COURIER_NAMES_12, m13
#define WIRED_COURIER_NAMES_14 WIRED_COURIER_NAMES_13, m14
#define WIRED_COURIER_NAMES_15 WIRED_COURIER_NAMES_14, m15
#define WIRED_COURIER_NAMES_16 WIRED_COURIER_NAMES_15, m16
#define WIRED_COURIER_NAMES_17 WIRED_COURIER_NAMES_16, m17
#define WIRED_COURIER_NAMES_18 WIRED_COURIER_NAMES_17, m18
#define WIRED_COURIER_NAMES_19 WIRED_COURIER_NAMES_18, m19
#define WIRED_COURIER_NAMES_20 WIRED_COURIER_NAMES_19, m20
#define WIRED_COURIER_NAMES_21 WIRED_COURIER_NAMES_20, m21
#define WIRED_COURIER_NAMES_22 WIRED_COURIER_NAMES_21, m22
#define WIRED_COURIER_NAMES_23 WIRED_COURIER_NAMES_22, m23
#define WIRED_COURIER_NAMES_24 WIRED_COURIER_NAMES_23, m24
#define WIRED_COURIER_NAMES_25 WIRED_COURIER_NAMES_24, m25
#define WIRED_COURIER_NAMES_26 WIRED_COURIER_NAMES_25, m26
#define WIRED_COURIER_NAMES_27 WIRED_COURIER_NAMES_26, m27
#define WIRED_COURIER_NAMES_28 WIRED_COURIER_NAMES_27, m28
#define WIRED_COURIER_NAMES_29 WIRED_COURIER_NAMES_28, m29
#define WIRED_COURIER_NAMES_30 WIRED_COURIER_NAMES_29, m30
#define WIRED_COURIER_NAMES_31 WIRED_COURIER_NAMES_30, m31
#define WIRED_COURIER_NAMES_32 WIRED_COURIER_NAMES_31, m32
// clang-format off
#define WIRED_COURIER_FROM_1_TO_32(X) \
    X(1) X(2) X(3) X(4) X(5) X(6) X(7) X(8) X(9) X(10) X(11) X(12) X(13) X(14) X(15) X(16) \
    X(17) X(18) X(19) X(20) X(21) X(22) X(23) X(24) X(25) X(26) X(27) X(28) X(29) X(30) X(31) X(32)
// clang-format on

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// A struct with more has to name its fields.
inline constexpr std::size_t most_members = 32;

/// Stand for values while members are counted: of any type, and of some.
struct any_value {
    template <class U>
    operator U() const; // NOLINT(google-explicit-constructor)
};
struct any_reference {
    template <class U>
    operator U&() const; // NOLINT(google-explicit-constructor)
};
struct any_union {
    any_union() = default;
    any_union(const any_union&) = delete; // or what holds anything would hold this
    any_union& operator=(const any_union&) = delete;
    // clang-format off
    template <class U>
        requires(std::is_union_v<U>)
    operator U() const; // NOLINT(google-explicit-constructor)
    // clang-format on
};
template <class T>
struct any_base_of {
    // clang-format off
    template <class U>
        requires(std::is_base_of_v<U, T> && !std::is_same_v<U, T>)
    operator U() const; // NOLINT(google-explicit-constructor)
    // clang-format on
};

/// What can be asked of a struct, for each number of members by itself: whether so
/// many empty braces, which stand for one member each, can begin a T; whether they
/// can with a value behind them; and a call with all members, which is none and
/// gives nothing if one of them is a bit-field.
template <std::size_t Count>
struct so_many;
// clang-format off
template <>
struct so_many<0> {
    template <class T>
    static constexpr bool braces = requires { T{}; };
    template <class T, class Last>
    static constexpr bool braces_and = requires { T{Last()}; };
};
#define WIRED_COURIER_SO_MANY(n)                                                                                       \
    template <>                                                                                                        \
    struct so_many<n> {                                                                                                \
        template <class T>                                                                                             \
        static constexpr bool braces = requires { T{WIRED_COURIER_BRACES_##n}; };                                      \
        template <class T, class Last>                                                                                 \
        static constexpr bool braces_and = requires { T{WIRED_COURIER_BRACES_##n Last()}; };                           \
        template <class T, class Call>                                                                                 \
        static constexpr auto with(T& object, Call call) {                                                             \
            auto& [WIRED_COURIER_NAMES_##n] = object;                                                                  \
            if constexpr (requires { call(WIRED_COURIER_NAMES_##n); }) {                                               \
                return call(WIRED_COURIER_NAMES_##n);                                                                  \
            }                                                                                                          \
        }                                                                                                              \
    };
WIRED_COURIER_FROM_1_TO_32(WIRED_COURIER_SO_MANY)
#undef WIRED_COURIER_SO_MANY
template <>
struct so_many<most_members + 1> {
    template <class T>
    static constexpr bool braces = requires { T{WIRED_COURIER_BRACES_33}; };
};
// clang-format on

/// Members, as far as each of them can be made of nothing.
template <class T, std::size_t Count = 0>
consteval std::size_t count_members() {
    if constexpr (Count > most_members) { // NOLINT(bugprone-branch-clone): the second is not looked at then
        return Count;
    } else if constexpr (!so_many<Count + 1>::template braces<T>) {
        return Count;
    } else {
        return count_members<T, Count + 1>();
    }
}

template <class T, std::size_t... I>
consteval bool holds_a_union(std::index_sequence<I...>) {
    return (so_many<I>::template braces_and<T, any_union> || ...);
}

/// Without const, as they are declared.
template <class... Members>
struct member_types {};

struct tell_types {
    template <class... Members>
    constexpr auto operator()(Members&...) const {
        return member_types<std::remove_cv_t<Members>...>();
    }
};
template <class T>
using types_of_members = decltype(so_many<count_members<T>()>::with(std::declval<T&>(), tell_types()));
/// Whether the members of T can be found: of an aggregate without a base, each of
/// whose members can be made of nothing, none of which is a union, a reference or a
/// bit-field.
template <class T>
consteval bool has_plain_members() {
    if constexpr (!std::is_class_v<T> || !std::is_aggregate_v<T>) { // NOLINT(bugprone-branch-clone): the same
        return false;
    } else if constexpr (std::is_empty_v<T> || !so_many<0>::template braces<T>) {
        return false;
    } else {
        constexpr std::size_t count = count_members<T>();
        if constexpr (count == 0 || count > most_members) {
            return false;
        } else {
            constexpr bool are_known = !so_many<count>::template braces_and<T, any_value> &&
                                       !so_many<count>::template braces_and<T, any_reference> &&
                                       !so_many<0>::template braces_and<T, any_base_of<T>> &&
                                       !holds_a_union<T>(std::make_index_sequence<count>());
            if constexpr (are_known) {
                return !std::is_void_v<types_of_members<T>>;
            } else {
                return false;
            }
        }
    }
}

/// A place in no memory: only the names of what would lie in it are looked at.
template <class T>
struct at_no_place {
    T value;
};
#if defined(__clang__)
#pragma clang diagnostic push
#pragma clang diagnostic ignored "-Wundefined-var-template"
#pragma clang diagnostic ignored "-Wundefined-internal"
#endif
template <class T>
extern const at_no_place<T> no_place;

template <class Pointer>
struct pointer_to_member {
    Pointer to;
};
template <class Pointer>
pointer_to_member(Pointer) -> pointer_to_member<Pointer>;

template <auto Pointer>
consteval std::string_view decorated_pointer() {
#if defined(__GNUC__)
    return __PRETTY_FUNCTION__;
#else
    return __FUNCSIG__;
#endif
}

consteval bool is_of_a_name(char c) {
    return (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || (c >= '0' && c <= '9') || c == '_';
}
consteval std::string_view last_name(std::string_view text) {
    std::size_t first = text.size();
    while (first != 0 && is_of_a_name(text[first - 1])) {
        --first;
    }
    return text.substr(first);
}

template <std::size_t I>
struct address_of_nth {
    template <class First, class... Rest>
    constexpr auto operator()(First& first, Rest&... rest) const {
        if constexpr (I == 0) {
            return &first;
        } else {
            return address_of_nth<I - 1>()(rest...);
        }
    }
};

/// How much compilers write behind the name, learned from one that is known.
struct well_known {
    int member;
};
consteval std::size_t count_behind_name() {
    constexpr const int* pointer = &no_place<well_known>.value.member;
#if defined(__clang__)
    const std::string_view text = decorated_pointer<pointer_to_member{pointer}>();
#else
    const std::string_view text = decorated_pointer<pointer>();
#endif
    return text.size() - text.rfind("member") - 6;
}
inline constexpr std::size_t behind_name = count_behind_name();

/// What the compiler calls the member, which is the last name in its text.
template <class T, std::size_t I>
consteval std::string_view member_name() {
    constexpr auto pointer = so_many<count_members<T>()>::with(no_place<T>.value, address_of_nth<I>());
#if defined(__clang__)
    constexpr std::string_view text = decorated_pointer<pointer_to_member{pointer}>();
#else
    constexpr std::string_view text = decorated_pointer<pointer>();
#endif
    return last_name(text.substr(0, text.size() - behind_name));
}

template <class T, std::size_t... I>
consteval auto member_names(std::index_sequence<I...>) {
    return std::array<std::string_view, sizeof...(I)>{member_name<T, I>()...};
}

#if defined(__clang__)
#pragma clang diagnostic pop
#endif

} // namespace detail
WIRED_COURIER_NAMESPACE_END

#undef WIRED_COURIER_FROM_1_TO_32
#undef WIRED_COURIER_BRACES_0
#undef WIRED_COURIER_BRACES_1
#undef WIRED_COURIER_BRACES_2
#undef WIRED_COURIER_BRACES_3
#undef WIRED_COURIER_BRACES_4
#undef WIRED_COURIER_BRACES_5
#undef WIRED_COURIER_BRACES_6
#undef WIRED_COURIER_BRACES_7
#undef WIRED_COURIER_BRACES_8
#undef WIRED_COURIER_BRACES_9
#undef WIRED_COURIER_BRACES_10
#undef WIRED_COURIER_BRACES_11
#undef WIRED_COURIER_BRACES_12
#undef WIRED_COURIER_BRACES_13
#undef WIRED_COURIER_BRACES_14
#undef WIRED_COURIER_BRACES_15
#undef WIRED_COURIER_BRACES_16
#undef WIRED_COURIER_BRACES_17
#undef WIRED_COURIER_BRACES_18
#undef WIRED_COURIER_BRACES_19
#undef WIRED_COURIER_BRACES_20
#undef WIRED_COURIER_BRACES_21
#undef WIRED_COURIER_BRACES_22
#undef WIRED_COURIER_BRACES_23
#undef WIRED_COURIER_BRACES_24
#undef WIRED_COURIER_BRACES_25
#undef WIRED_COURIER_BRACES_26
#undef WIRED_COURIER_BRACES_27
#undef WIRED_COURIER_BRACES_28
#undef WIRED_COURIER_BRACES_29
#undef WIRED_COURIER_BRACES_30
#undef WIRED_COURIER_BRACES_31
#undef WIRED_COURIER_BRACES_32
#undef WIRED_COURIER_BRACES_33
#undef WIRED_COURIER_NAMES_1
#undef WIRED_COURIER_NAMES_2
#undef WIRED_COURIER_NAMES_3
#undef WIRED_COURIER_NAMES_4
#undef WIRED_COURIER_NAMES_5
#undef WIRED_COURIER_NAMES_6
#undef WIRED_COURIER_NAMES_7
#undef WIRED_COURIER_NAMES_8
#undef WIRED_COURIER_NAMES_9
#undef WIRED_COURIER_NAMES_10
#undef WIRED_COURIER_NAMES_11
#undef WIRED_COURIER_NAMES_12
#undef WIRED_COURIER_NAMES_13
#undef WIRED_COURIER_NAMES_14
#undef WIRED_COURIER_NAMES_15
#undef WIRED_COURIER_NAMES_16
#undef WIRED_COURIER_NAMES_17
#undef WIRED_COURIER_NAMES_18
#undef WIRED_COURIER_NAMES_19
#undef WIRED_COURIER_NAMES_20
#undef WIRED_COURIER_NAMES_21
#undef WIRED_COURIER_NAMES_22
#undef WIRED_COURIER_NAMES_23
#undef WIRED_COURIER_NAMES_24
#undef WIRED_COURIER_NAMES_25
#undef WIRED_COURIER_NAMES_26
#undef WIRED_COURIER_NAMES_27
#undef WIRED_COURIER_NAMES_28
#undef WIRED_COURIER_NAMES_29
#undef WIRED_COURIER_NAMES_30
#undef WIRED_COURIER_NAMES_31
#undef WIRED_COURIER_NAMES_32
