// The fields of a payload as data, made from the type.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/change.hpp>
#include <courier/config.hpp>
#include <courier/detail/base/enum_names.hpp>
#include <courier/detail/base/field_defaults.hpp>
#include <courier/detail/base/members.hpp>
#include <courier/detail/base/type_kinds.hpp>
#include <courier/detail/base/type_name.hpp>
#include <courier/detail/base/value_type.hpp>

#include <array>
#include <cstddef>
#include <cstdint>
#include <string_view>
#include <type_traits>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

template <class T>
struct struct_fields {
    template <std::size_t I>
    struct member {
        constexpr bool operator()(const T& object) const {
            return so_many<count_members<T>()>::with(object, [](const auto&... each) {
                std::size_t at = 0;
                return ((at++ == I && starts_with_value(each)) || ...);
            });
        }
    };
    template <std::size_t... I, class... Members>
    static consteval auto entries(std::index_sequence<I...> each, member_types<Members...>) {
        constexpr auto names = member_names<T>(each);
        return std::array<field_entry, sizeof...(I)>{
            field_entry{names[I], &known<Members>::type, has_default<T, Members, member<I>>()}...};
    }
    static consteval auto entries() {
        return entries(std::make_index_sequence<count_members<T>()>(), types_of_members<T>());
    }
    WIRED_COURIER_HIDDEN static void locate(const void* object, const void** fields) {
        so_many<count_members<T>()>::with(*static_cast<const T*>(object),
                                          [&](const auto&... each) { ((*fields++ = &each), ...); });
    }
};

template <class T, auto... Members>
struct chosen_fields {
    template <auto Member>
    using type_of = std::remove_cvref_t<decltype(std::declval<const T&>().*Member)>;
    template <auto Member>
    struct member {
        constexpr bool operator()(const T& object) const { return starts_with_value(object.*Member); }
    };
    static consteval auto entries(const named_members<Members...>& named) {
        std::size_t next = 0;
        return std::array<field_entry, sizeof...(Members)>{
            field_entry{named.names[next++], &known<type_of<Members>>::type,
                        has_default<T, type_of<Members>, member<Members>>()}...};
    }
    WIRED_COURIER_HIDDEN static void locate(const void* object, const void** fields) {
        const T& known = *static_cast<const T*>(object);
        ((*fields++ = &(known.*Members)), ...);
    }
};

template <class T>
struct change_fields {
    static consteval std::array<field_entry, 2> entries() {
        return {field_entry{"before", &known<T>::type}, field_entry{"after", &known<T>::type}};
    }
    WIRED_COURIER_HIDDEN static void locate(const void* object, const void** fields) {
        const auto& known = *static_cast<const change<T>*>(object);
        fields[0] = &known.before();
        fields[1] = &known.after();
    }
};

template <class T>
struct fields_maker {
    // clang-format off
    static consteval auto of_named() {
        return []<auto... Members>(const named_members<Members...>&) {
            return chosen_fields<T, Members...>();
        }(wired_courier_members(static_cast<const T*>(nullptr)));
    }
    // clang-format on
    static consteval auto make_entries() {
        if constexpr (names_members<T>) {
            return decltype(of_named())::entries(wired_courier_members(static_cast<const T*>(nullptr)));
        } else {
            return struct_fields<T>::entries();
        }
    }
    static consteval auto locate() {
        if constexpr (names_members<T>) {
            return &decltype(of_named())::locate;
        } else {
            return &struct_fields<T>::locate;
        }
    }
    static constexpr bool can_write = true;
};
template <class T>
struct fields_maker<change<T>> {
    static consteval auto make_entries() { return change_fields<T>::entries(); }
    static consteval auto locate() { return &change_fields<T>::locate; }
    static constexpr bool can_write = false;
};

template <class T>
WIRED_COURIER_HIDDEN inline constexpr auto entries_of = fields_maker<T>::make_entries();

/// One of the enumeration's values from 0 to 63, as far as they can be told.
template <class Enum>
consteval auto make_values() {
    if constexpr (names_values<Enum>) {
        return wired_courier_values(static_cast<const Enum*>(nullptr)).values;
    } else if constexpr (!requires { Enum{0}; }) { // which numbers it may hold is not known
        return std::array<enum_value, 0>{};
    } else {
        constexpr std::size_t count = [] {
            std::size_t named = 0;
            for (const std::string_view name : enum_names<Enum>) {
                named += name.empty() ? 0 : 1;
            }
            return named;
        }();
        std::array<enum_value, count> all{};
        std::size_t next = 0;
        for (std::size_t i = 0; i < most_enum_values && count != 0; ++i) {
            if (!enum_names<Enum>[i].empty()) {
                all[next++] = {enum_names<Enum>[i], static_cast<std::int64_t>(i)};
            }
        }
        return all;
    }
}
template <class Enum>
WIRED_COURIER_HIDDEN inline constexpr auto values_of = make_values<Enum>();

template <class T>
struct text_ops {
    WIRED_COURIER_HIDDEN static std::string_view text(const void* value) {
        const T& known = *static_cast<const T*>(value);
        if constexpr (std::is_array_v<T>) { // up to its zero, if it has one
            std::size_t size = 0;
            while (size < std::extent_v<T> && known[size] != '\0') {
                ++size;
            }
            return {known, size};
        } else if constexpr (std::is_pointer_v<T>) {
            return known != nullptr ? std::string_view(known) : std::string_view();
        } else {
            const std::string_view text = known;
            return text.data() != nullptr ? text : std::string_view("");
        }
    }
    static constexpr bool can_assign = std::is_array_v<T> || std::is_same_v<T, const char*> ||
                                       (!std::is_pointer_v<T> && std::is_assignable_v<T&, std::string_view>);
    WIRED_COURIER_HIDDEN static bool assign(void* value, std::string_view text) {
        T& known = *static_cast<T*>(value);
        if constexpr (std::is_array_v<T>) {
            if (text.size() > sizeof(T)) {
                return false;
            }
            for (std::size_t i = 0; i < std::extent_v<T>; ++i) {
                known[i] = i < text.size() ? text[i] : '\0';
            }
        } else if constexpr (std::is_pointer_v<T>) {
            known = text.data();
        } else {
            known = text;
        }
        return true;
    }
};

template <class T>
struct optional_ops {
    WIRED_COURIER_HIDDEN static const void* held(const void* value) {
        const T& known = *static_cast<const T*>(value);
        return known.has_value() ? &*known : nullptr;
    }
    WIRED_COURIER_HIDDEN static void* hold(void* value) { return &static_cast<T*>(value)->emplace(); }
    WIRED_COURIER_HIDDEN static void drop(void* value) { static_cast<T*>(value)->reset(); }
};

template <class T>
struct list_ops {
    using item = typename item_of<T>::type;
    // clang-format off
    static constexpr bool can_add = requires(T& list) {
        list.clear();
        list.push_back(item());
    };
    // clang-format on
    WIRED_COURIER_HIDDEN static std::size_t count(const void* list) {
        std::size_t all = 0;
        for ([[maybe_unused]] const auto& one : *static_cast<const T*>(list)) {
            ++all;
        }
        return all;
    }
    WIRED_COURIER_HIDDEN static void each(const void* list, void* context,
                                          void (*visit)(void* context, const void* item)) {
        for (const item& one : *static_cast<const T*>(list)) {
            visit(context, &one);
        }
    }
    WIRED_COURIER_HIDDEN static void clear(void* list) { static_cast<T*>(list)->clear(); }
    WIRED_COURIER_HIDDEN static bool add(void* list, void* context, bool (*fill)(void* context, void* item)) {
        item made{}; // apart, since a std::vector<bool> has no such things
        if (!fill(context, &made)) {
            return false;
        }
        static_cast<T*>(list)->push_back(std::move(made));
        return true;
    }
};

template <class T>
consteval void make_number(value_type& made) {
    made.kind = std::is_same_v<T, bool>       ? value_kind::truth
                : std::is_floating_point_v<T> ? value_kind::real
                : std::is_unsigned_v<T>       ? value_kind::natural
                                              : value_kind::integer;
    made.can_write = true;
}

template <class T>
consteval void make_list(value_type& made) {
    using item = typename list_ops<T>::item;
    made.kind = value_kind::list;
    made.inner = &known<item>::type;
    made.count = &list_ops<T>::count;
    made.each = &list_ops<T>::each;
    if constexpr (list_ops<T>::can_add) {
        made.can_write = true;
        made.clear = &list_ops<T>::clear;
        made.add = &list_ops<T>::add;
    }
}

template <class T>
consteval void make_text(value_type& made) {
    made.kind = value_kind::text;
    made.text = &text_ops<T>::text;
    made.borrows = std::is_pointer_v<T> || std::is_same_v<T, std::string_view>;
    if constexpr (text_ops<T>::can_assign) {
        made.can_write = true;
        made.assign = &text_ops<T>::assign;
    }
}

template <class T>
consteval value_type make_type() {
    value_type made;
    made.size = sizeof(T);
    made.is_plain = std::is_trivially_copyable_v<T>;
    if constexpr (std::is_arithmetic_v<T> && sizeof(T) <= 8) {
        make_number<T>(made);
    } else if constexpr (std::is_enum_v<T>) {
        made.kind = value_kind::enumeration;
        made.is_signed = std::is_signed_v<std::underlying_type_t<T>>;
        made.can_write = true;
        made.name = type_name<T>();
        made.values = {values_of<T>.data(), values_of<T>.size()};
    } else if constexpr (like_text<T>) {
        make_text<T>(made);
    } else if constexpr (like_duration<T>) {
        made.kind = value_kind::duration;
        made.inner = &known<typename T::rep>::type;
        made.unit = static_cast<double>(T::period::num) / static_cast<double>(T::period::den);
        made.can_write = true;
    } else if constexpr (has_fields<T>()) {
        made.kind = value_kind::object;
        made.name = type_name<T>();
        made.fields = &known<T>::table;
        made.can_write = true;
    } else if constexpr (like_optional<T>) {
        made.kind = value_kind::optional;
        made.inner = &known<std::remove_cv_t<typename T::value_type>>::type;
        made.held = &optional_ops<T>::held;
        made.drop = &optional_ops<T>::drop;
        if constexpr (requires { std::declval<T&>().emplace(); }) {
            made.hold = &optional_ops<T>::hold;
            made.can_write = true;
        }
    } else if constexpr (like_list<T>) {
        if constexpr (!std::is_same_v<typename item_of<T>::type, T>) { // a path is a list of paths
            make_list<T>(made);
        }
    }
    return made;
}

template <class T>
constinit const value_type known<T>::type = make_type<T>();
template <class T>
constinit const field_table known<T>::table = {type_name<T>(),
                                               {entries_of<T>.data(), entries_of<T>.size()},
                                               fields_maker<T>::locate(),
                                               fields_maker<T>::can_write,
                                               sizeof(T)};

/// Null where nothing is known of them.
template <class T>
constexpr const field_table* fields_of() {
    if constexpr (has_fields<T>()) {
        return &known<T>::table;
    } else {
        return nullptr;
    }
}
template <class T>
inline constexpr bool is_change_of_known = false;
template <class T>
inline constexpr bool is_change_of_known<change<T>> = make_type<T>().kind != value_kind::other;
// clang-format off
template <class T>
    requires(is_change_of_known<T>)
constexpr const field_table* fields_of() {
    return &known<T>::table;
}
// clang-format on

} // namespace detail
WIRED_COURIER_NAMESPACE_END
