// How addresses are written in recordings and reports.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/detail/base/field_table.hpp>
#include <courier/detail/delivery/oversight.hpp>

#include <concepts>
#include <cstddef>
#include <cstdint>
#include <string>
#include <string_view>
#include <type_traits>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// Values of enumerations by name, as far as they have one, numbers as such, text as it is,
/// everything else by its bytes.
template <class Address>
void write_address(const void* from, std::string& to) {
    const Address& address = *static_cast<const Address*>(from);
    if constexpr (std::is_enum_v<Address>) {
        const auto number = static_cast<std::int64_t>(address);
        const std::string_view name = name_of_value(known<Address>::type, number);
        to += name.empty() ? std::to_string(number) : std::string(name);
    } else if constexpr (std::is_arithmetic_v<Address>) {
        to += std::to_string(address);
    } else if constexpr (std::is_convertible_v<const Address&, std::string_view>) {
        to += std::string_view(address);
    } else if constexpr (std::is_trivially_copyable_v<Address>) {
        constexpr char digits[] = "0123456789abcdef";
        to += "0x";
        const auto* const bytes = reinterpret_cast<const unsigned char*>(&address);
        for (std::size_t i = 0; i < sizeof(Address); ++i) {
            to += digits[bytes[i] >> 4];
            to += digits[bytes[i] & 15];
        }
    } else {
        to += "?";
    }
}

template <class Address>
[[nodiscard]] address_label label_of(const Address& address) noexcept {
    return {&address, &write_address<Address>};
}

/// Groups by how many they are.
template <class Group>
[[nodiscard]] address_label label_of_group(const Group& group) noexcept {
    return {&group, [](const void* from, std::string& to) {
                to += "a group of " + std::to_string(static_cast<const Group*>(from)->size());
            }};
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
