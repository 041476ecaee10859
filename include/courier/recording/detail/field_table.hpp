// How a payload's fields are read and written; made from what Boost.Describe
// knows of it.
#pragma once

#include <courier/change.hpp>
#include <courier/config.hpp>
#include <courier/recording/detail/json_in.hpp>
#include <courier/recording/detail/packed.hpp>

#include <boost/describe.hpp>
#include <boost/mp11.hpp>

#include <algorithm>
#include <array>
#include <chrono>
#include <concepts>
#include <cstddef>
#include <iterator>
#include <limits>
#include <optional>
#include <ranges>
#include <span>
#include <string>
#include <string_view>
#include <type_traits>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

struct field_table;

struct field_entry {
    const char* name;
    const field_table* inside; ///< of a described struct, or of the items of a range; else null
};

struct field_table {
    std::span<const field_entry> entries;
    void (*pack)(const void* payload, packed_bytes& to);
    /// Null when it cannot be read back. False when a field is missing or of
    /// another type; then its name is in `wrong`.
    bool (*unpack)(const json_in& from, void* payload, kept_texts& texts, std::string& wrong);
};

template <class T>
inline constexpr bool is_described = boost::describe::has_describe_members<T>::value && !std::is_union_v<T>;
template <class>
inline constexpr bool is_optional_value = false;
template <class T>
inline constexpr bool is_optional_value<std::optional<T>> = true;
template <class>
inline constexpr bool is_duration = false;
template <class Rep, class Period>
inline constexpr bool is_duration<std::chrono::duration<Rep, Period>> = true;
template <class T>
inline constexpr bool is_char_array = false;
template <std::size_t N>
inline constexpr bool is_char_array<char[N]> = true;
template <class T>
concept like_text = std::is_convertible_v<const T&, std::string_view>;
template <class T>
concept item_range = std::ranges::forward_range<const T> && !like_text<T>;

template <class T>
using members_of = boost::describe::describe_members<T, boost::describe::mod_public>;

template <class T>
consteval bool can_be_packed() {
    if constexpr (std::is_arithmetic_v<T> || std::is_enum_v<T> || like_text<T> || is_duration<T> || is_described<T>) {
        return true;
    } else if constexpr (is_optional_value<T>) {
        return can_be_packed<typename T::value_type>();
    } else if constexpr (item_range<T>) {
        return can_be_packed<std::ranges::range_value_t<const T>>();
    } else {
        return false;
    }
}

template <class T>
void pack_members(const T& value, packed_bytes& to);

template <class T>
void pack_value(const T& value, packed_bytes& to) {
    if constexpr (std::is_same_v<T, bool>) {
        to.put(value ? tag::yes : tag::no);
    } else if constexpr (std::is_floating_point_v<T>) {
        to.put(tag::real, static_cast<double>(value));
    } else if constexpr (std::is_enum_v<T>) {
        if constexpr (boost::describe::has_describe_enumerators<T>::value) {
            if (const char* const name = boost::describe::enum_to_string(value, nullptr); name != nullptr) {
                to.put(tag::text);
                to.put_text(name);
                return;
            }
        }
        to.put(tag::integer, static_cast<std::int64_t>(value));
    } else if constexpr (std::is_unsigned_v<T>) {
        to.put(tag::natural, static_cast<std::uint64_t>(value));
    } else if constexpr (std::is_arithmetic_v<T>) {
        to.put(tag::integer, static_cast<std::int64_t>(value));
    } else if constexpr (is_duration<T>) {
        to.put(tag::real, std::chrono::duration<double>(value).count());
    } else if constexpr (is_char_array<T>) { // up to its zero, if it has one
        to.put(tag::text);
        to.put_text({value, static_cast<std::size_t>(std::find(value, std::end(value), '\0') - value)});
    } else if constexpr (std::is_pointer_v<T>) {
        to.put(value != nullptr ? tag::text : tag::null);
        if (value != nullptr) {
            to.put_text(std::string_view(value));
        }
    } else if constexpr (like_text<T>) {
        to.put(tag::text);
        to.put_text(std::string_view(value));
    } else if constexpr (is_described<T>) {
        to.put(tag::object);
        pack_members(value, to);
    } else if constexpr (is_optional_value<T>) {
        if (value) {
            pack_value(*value, to);
        } else {
            to.put(tag::null);
        }
    } else if constexpr (item_range<T>) {
        to.put(tag::list, static_cast<std::uint32_t>(std::ranges::distance(value)));
        for (const auto& item : value) {
            pack_value<std::ranges::range_value_t<const T>>(item, to);
        }
    } else {
        to.put(tag::null);
    }
}

template <class T>
void pack_members(const T& value, packed_bytes& to) {
    boost::mp11::mp_for_each<members_of<T>>([&](auto member) { pack_value(value.*member.pointer, to); });
}

template <class T>
bool unpack_members(const json_in& from, T& value, kept_texts& texts, std::string& wrong);

template <class Wide, class T>
bool unpack_number(const json_in& from, T& value) {
    Wide wide{};
    if (!from.get(wide)) {
        return false;
    }
    if constexpr (std::is_integral_v<Wide> && std::is_integral_v<T>) {
        if (wide < static_cast<Wide>(std::numeric_limits<T>::min()) ||
            wide > static_cast<Wide>(std::numeric_limits<T>::max())) {
            return false;
        }
    }
    value = static_cast<T>(wide);
    return true;
}

template <class T>
bool unpack_value(const json_in& from, T& value, kept_texts& texts, std::string& wrong) {
    if constexpr (std::is_same_v<T, bool>) {
        return from.get(value);
    } else if constexpr (std::is_floating_point_v<T>) {
        return unpack_number<double>(from, value);
    } else if constexpr (std::is_enum_v<T>) {
        if constexpr (boost::describe::has_describe_enumerators<T>::value) {
            if (std::string_view name; from.get(name)) {
                return boost::describe::enum_from_string(std::string(name).c_str(), value);
            }
        }
        return unpack_number<std::int64_t>(from, value);
    } else if constexpr (std::is_unsigned_v<T>) {
        return unpack_number<std::uint64_t>(from, value);
    } else if constexpr (std::is_arithmetic_v<T>) {
        return unpack_number<std::int64_t>(from, value);
    } else if constexpr (is_duration<T>) {
        double seconds = 0;
        if (!from.get(seconds)) {
            return false;
        }
        value = std::chrono::duration_cast<T>(std::chrono::duration<double>(seconds));
        return true;
    } else if constexpr (is_char_array<T>) {
        std::string_view text;
        if (!from.get(text) || text.size() > sizeof(T)) {
            return false;
        }
        std::fill(std::copy(text.begin(), text.end(), value), std::end(value), '\0');
        return true;
    } else if constexpr (std::is_same_v<T, std::string_view> || std::is_same_v<T, const char*>) {
        if constexpr (std::is_pointer_v<T>) {
            if (from.is_null()) {
                value = nullptr;
                return true;
            }
        }
        std::string_view text;
        if (!from.get(text)) {
            return false;
        }
        if constexpr (std::is_same_v<T, std::string_view>) {
            value = texts.keep(text);
        } else {
            value = texts.keep(text).data();
        }
        return true;
    } else if constexpr (like_text<T> && std::is_assignable_v<T&, std::string_view>) {
        std::string_view text;
        if (!from.get(text)) {
            return false;
        }
        value = text;
        return true;
    } else if constexpr (is_described<T>) {
        return unpack_members(from, value, texts, wrong);
    } else if constexpr (is_optional_value<T>) {
        if (from.is_null()) {
            value.reset();
            return true;
        }
        return unpack_value(from, value.emplace(), texts, wrong);
    } else if constexpr (requires {
                             value.clear();
                             value.push_back(typename T::value_type());
                         }) {
        value.clear();
        for (std::size_t i = 0; i < from.size(); ++i) {
            typename T::value_type item{}; // apart, since a std::vector<bool> has no such things
            if (!unpack_value(from.at(i), item, texts, wrong)) {
                return false;
            }
            value.push_back(std::move(item));
        }
        return true;
    } else {
        return false;
    }
}

template <class T>
bool unpack_members(const json_in& from, T& value, kept_texts& texts, std::string& wrong) {
    bool all = true;
    boost::mp11::mp_for_each<members_of<T>>([&](auto member) {
        using Field = std::remove_cvref_t<decltype(value.*member.pointer)>;
        if constexpr (std::is_assignable_v<Field&, Field> || is_char_array<Field>) {
            const json_in found = from.find(member.name);
            if (all && (!found.exists() || !unpack_value(found, value.*member.pointer, texts, wrong))) {
                all = false;
                wrong = wrong.empty() ? member.name : std::string(member.name) + "." + wrong;
            }
        }
    });
    return all;
}

template <class T>
consteval const field_table* table_inside();

template <class T>
consteval auto make_entries() {
    std::array<field_entry, boost::mp11::mp_size<members_of<T>>::value> entries{};
    std::size_t i = 0;
    boost::mp11::mp_for_each<members_of<T>>([&](auto member) {
        using Field = std::remove_cvref_t<decltype(std::declval<const T&>().*member.pointer)>;
        entries[i++] = {member.name, table_inside<Field>()};
    });
    return entries;
}

template <class T>
inline constexpr auto entries_of = make_entries<T>();

template <class T>
inline constexpr field_table table_of{
    entries_of<T>, [](const void* payload, packed_bytes& to) { pack_members(*static_cast<const T*>(payload), to); },
    [](const json_in& from, void* payload, kept_texts& texts, std::string& wrong) {
        return unpack_members(from, *static_cast<T*>(payload), texts, wrong);
    }};

template <class T>
consteval const field_table* table_inside() {
    if constexpr (is_described<T>) {
        return &table_of<T>;
    } else if constexpr (is_optional_value<T>) {
        return table_inside<typename T::value_type>();
    } else if constexpr (item_range<T>) {
        return table_inside<std::ranges::range_value_t<const T>>();
    } else {
        return nullptr;
    }
}

template <class T>
inline constexpr std::array<field_entry, 2> change_entries{field_entry{"before", table_inside<T>()},
                                                           field_entry{"after", table_inside<T>()}};

template <class T>
inline constexpr field_table change_table{change_entries<T>,
                                          [](const void* payload, packed_bytes& to) {
                                              const auto& what = *static_cast<const change<T>*>(payload);
                                              pack_value(what.before(), to);
                                              pack_value(what.after(), to);
                                          },
                                          nullptr};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
