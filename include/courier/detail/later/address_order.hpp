// Sorts a round's payloads by their addresses.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/detail/delivery/address_code.hpp>

#include <cstddef>
#include <cstdint>
#include <span>
#include <type_traits>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

struct keyed_place {
    std::uint64_t key;
    std::uint32_t place;
};

/// By key, and for equal keys as they were. Takes one pass for each byte in which keys differ (radix sort, least
/// significant byte first: Knuth, "The Art of Computer Programming", 5.2.5).
void sort_by_key(std::span<keyed_place> all);

/// Numbers and enums have their own order; other addresses are kept together, in no order of meaning.
template <class Address>
[[nodiscard]] std::uint64_t order_key(const Address& address) {
    if constexpr (std::is_enum_v<Address>) {
        return order_key(static_cast<std::underlying_type_t<Address>>(address));
    } else if constexpr (std::is_integral_v<Address>) {
        constexpr std::uint64_t sign = std::is_signed_v<Address> ? std::uint64_t{1} << 63 : 0;
        return static_cast<std::uint64_t>(address) ^ sign; // which puts negative ones first
    } else {
        return code_of(address);
    }
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
