// Addresses from text, as courier/detail/delivery/address_text.hpp writes them.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/detail/base/field_table.hpp>

#include <charconv>
#include <limits>
#include <string_view>
#include <system_error>
#include <type_traits>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// Kinds of addresses that can be read back.
template <class Address>
inline constexpr bool can_read_address =
    std::is_enum_v<Address> || std::is_integral_v<Address> || std::is_assignable_v<Address&, std::string_view>;

/// False when it is none.
template <class Address>
bool read_address(std::string_view text, Address& into) {
    if constexpr (std::is_enum_v<Address>) {
        for (const enum_value& one : values_of<Address>) {
            if (one.name == text) {
                into = static_cast<Address>(one.value);
                return true;
            }
        }
        std::underlying_type_t<Address> number{};
        const bool is_one = read_address(text, number);
        into = static_cast<Address>(number);
        return is_one;
    } else if constexpr (std::is_integral_v<Address>) {
        using wide = std::conditional_t<std::is_signed_v<Address>, long long, unsigned long long>;
        wide number = 0;
        const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), number);
        into = static_cast<Address>(number);
        return error == std::errc{} && end == text.data() + text.size() && number == static_cast<wide>(into);
    } else if constexpr (std::is_assignable_v<Address&, std::string_view>) {
        into = text;
        return true;
    } else {
        return false;
    }
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
