// How addresses are written in recordings and reports.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/detail/base/field_table.hpp>
#include <courier/detail/delivery/oversight.hpp>

#include <cstddef>
#include <cstdint>
#include <string>
#include <string_view>
#include <type_traits>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

void append_enum(const value_type& type, std::int64_t value, std::string& to);
void append_text(std::string_view text, std::string& to);
void append_number(std::int64_t number, std::string& to);
void append_number(std::uint64_t number, std::string& to);
void append_number(double number, std::string& to);
void append_bytes(const void* from, std::size_t count, std::string& to);
void append_group(std::size_t members, std::string& to);

/// Values of enumerations by name, as far as they have one, numbers as such, text as it is,
/// everything else by its bytes.
template <class Address>
void write_address(const void* from, std::string& to) {
    const Address& address = *static_cast<const Address*>(from);
    if constexpr (std::is_enum_v<Address>) {
        append_enum(known<Address>::type, static_cast<std::int64_t>(address), to);
    } else if constexpr (std::is_floating_point_v<Address>) {
        append_number(static_cast<double>(address), to);
    } else if constexpr (std::is_arithmetic_v<Address>) {
        append_number(static_cast<std::conditional_t<std::is_signed_v<Address>, std::int64_t, std::uint64_t>>(address),
                      to);
    } else if constexpr (std::is_convertible_v<const Address&, std::string_view>) {
        append_text(address, to);
    } else if constexpr (std::is_trivially_copyable_v<Address>) {
        append_bytes(from, sizeof(Address), to);
    } else {
        append_text("?", to);
    }
}

template <class Address>
[[nodiscard]] address_label label_of(const Address& address) noexcept {
    return {&address, &write_address<Address>};
}

/// Groups by how many they are.
template <class Group>
[[nodiscard]] address_label label_of_group(const Group& group) noexcept {
    return {&group,
            [](const void* from, std::string& to) { append_group(static_cast<const Group*>(from)->size(), to); }};
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
