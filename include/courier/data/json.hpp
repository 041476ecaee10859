// Payloads, and whatever else has known fields (courier/fields.hpp), to JSON and back.
//
//     std::puts(courier::to_json(moored).c_str()); // {"barge":3,"berth":"north","late":1.5}
//     Moored back;
//     for (const courier::json_fault& fault : courier::from_json(text, back)) { ... }
//
// A struct is an object with its fields in the order of their declaration, a list an array, an
// empty optional null, a duration its seconds, and an enumeration the name of its value (its
// number where it has no name). Of types of which nothing is known there is null.
//
// JSON has no number for NaN and infinity. They are the texts "NaN", "Infinity" and
// "-Infinity", which every JSON reader accepts, and which null, for "not there", leaves apart.
// Recordings, gateways, ferries and catalogues use this form too.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/data/detail/shape.hpp>
#include <courier/data/json_fault.hpp>
#include <courier/data/value_shape.hpp>
#include <courier/fields.hpp>

#include <string>
#include <string_view>
#include <type_traits>
#include <utility>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

[[nodiscard]] std::string json_of(const value_type& type, const void* value);
[[nodiscard]] std::vector<json_fault> json_into(std::string_view text, const value_type& type, void* value,
                                                const json_rules& rules);

// clang-format off
template <class Source>
concept holds_value = requires(const Source& source) {
    typename Source::value_type;
    source.glance();
};
// clang-format on

/// Of structs without members.
extern const value_type empty_struct_type;

/// The type of a value that is read or written.
template <class T>
constexpr const value_type& type_to_write() {
    if constexpr (has_fields<T>()) { // make_type() would not compile for one that holds a list of itself
        return known<T>::type;
    } else if constexpr (std::is_empty_v<T> && make_type<T>().kind == value_kind::other) {
        return empty_struct_type;
    } else {
        static_assert(make_type<T>().kind != value_kind::other,
                      "courier: nothing is known of values of this type; see courier/fields.hpp");
        return known<T>::type;
    }
}

} // namespace detail

/// `from` is a payload or another value with known fields; or a state or a formula, whose
/// value it is then. From any thread that may read it. Throws what running out of memory throws.
template <class T>
[[nodiscard]] std::string to_json(const T& from) {
    if constexpr (detail::holds_value<T>) {
        const auto& value = from.glance();
        return detail::json_of(detail::type_to_write<std::remove_cvref_t<decltype(value)>>(), &value);
    } else {
        return detail::json_of(detail::type_to_write<T>(), &from);
    }
}

/// Fills `into` from a text. Returns all faults in the order of the text; when there are any,
/// `into` is as it was. Texts are copied, so a field that is a view of a text cannot be
/// filled. `T` can be copied.
template <class T>
[[nodiscard]] std::vector<json_fault> from_json(std::string_view text, T& into, const json_rules& rules = {}) {
    T read = into;
    std::vector<json_fault> faults = detail::json_into(text, detail::type_to_write<T>(), &read, rules);
    if (faults.empty()) {
        into = std::move(read);
    }
    return faults;
}

/// The shape of a type, as catalogues have it.
template <class T>
[[nodiscard]] value_shape shape_of() {
    return detail::shape_of(detail::type_to_write<T>());
}

/// The faults that from_json() would find for a type of which only the shape is known, as from
/// a catalogue; views of texts count as if they could be filled.
[[nodiscard]] std::vector<json_fault> check_json(std::string_view text, const value_shape& shape,
                                                 const json_rules& rules = {});

WIRED_COURIER_NAMESPACE_END
