// A state, formula or announced list without its types.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/change.hpp>
#include <courier/detail/base/field_table.hpp>
#include <courier/detail/base/type_number.hpp>
#include <courier/detail/delivery/port.hpp>

#include <source_location>
#include <string_view>
#include <type_traits>
#include <utility>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// A value as the only field of a payload, the way it is written everywhere.
template <class Value>
struct value_as_field {
    static constexpr field_entry entry{"value", &known<Value>::type};
    static void locate(const void* object, const void** fields) { *fields = object; }
    WIRED_COURIER_HIDDEN static const field_table table;
};
template <class Value>
constinit const field_table value_as_field<Value>::table = {
    type_name<Value>(), {&entry, 1}, &locate, make_type<Value>().can_write, sizeof(Value)};

template <class Value>
inline constexpr value_copier copies{
    [](const void* value) -> void* { return new Value(*static_cast<const Value*>(value)); },
    [](void* to, const void* from) { *static_cast<Value*>(to) = *static_cast<const Value*>(from); },
    [](void* value) noexcept { delete static_cast<Value*>(value); }};

template <class Value>
inline constexpr bool has_copies = std::is_copy_constructible_v<Value> && std::is_copy_assignable_v<Value>;

template <class Value>
[[nodiscard]] constexpr const value_copier* copier_of() noexcept {
    if constexpr (has_copies<Value>) {
        return &copies<Value>;
    } else {
        return nullptr;
    }
}

/// Gives a list all items of another one; what is alike stays.
template <class List>
void set_items(List& of, typename List::value_type&& next, std::source_location where) {
    while (of.glance().size() > next.size()) {
        of.remove(of.glance().size() - 1, where);
    }
    for (std::size_t i = 0; i < next.size(); ++i) {
        i < of.glance().size() ? of.set(i, std::move(next[i]), where) : of.add(std::move(next[i]), where);
    }
}

template <class Source>
struct value_ops_of {
    using value = typename Source::value_type;
    using payload = typename Source::payload_type;
    static constexpr bool announces_itself = std::is_same_v<payload, change<value>>;
    static constexpr bool can_set =
        !announces_itself || requires(Source& of, value fresh) { of.set(std::move(fresh)); };

    static const void* look(const void* source) { return &static_cast<const Source*>(source)->glance(); }
    static const void* after(const void* announced) { return &static_cast<const payload*>(announced)->after(); }
    static void set(void* source, void* next, std::source_location where) {
        Source& of = *static_cast<Source*>(source);
        value& fresh = *static_cast<value*>(next);
        if constexpr (announces_itself) {
            of.set(std::move(fresh), where);
        } else {
            set_items(of, std::move(fresh), where);
        }
    }
    static constexpr value_ops make() {
        value_ops all{&key_of_type<Source>,
                      type_name<value>(),
                      &known<value>::type,
                      &value_as_field<value>::table,
                      maker_of<value>(),
                      copier_of<value>(),
                      &look};
        if constexpr (announces_itself) {
            all.after = &after;
        }
        if constexpr (can_set) {
            all.set = &set;
        }
        return all;
    }
    WIRED_COURIER_HIDDEN static constexpr value_ops ops = make();
};

/// Its changes as a channel, and itself.
template <class Source>
    requires requires(const Source& of) { of.glance(); }
[[nodiscard]] port port_of(const Source& of) {
    access::open(of);
    return {access::core(of), &port_ops_of<typename Source::payload_type>, &value_ops_of<Source>::ops,
            const_cast<Source*>(&of)};
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
