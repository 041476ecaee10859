// Addresses out of their texts.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/detail/base/field_table.hpp>

#include <string_view>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// Reads what `write_address()` wrote, of a number, an enumeration or a text. False if the
/// text is none of the type's.
bool read_address(const value_type& type, std::string_view text, void* into);

template <class Address>
bool read_address(std::string_view text, Address& into) {
    return read_address(known<Address>::type, text, &into);
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
