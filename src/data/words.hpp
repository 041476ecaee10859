// Values as words.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/detail/base/value_type.hpp>

#include <string>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// See in_words().
void put_words(const value_type& type, const void* value, std::string& to);
/// The fields of a struct.
void put_fields(const field_table& table, const void* object, std::string& to);
/// The value of an enumeration by its name, or by its number where it has none.
void put_name(const value_type& type, std::int64_t value, std::string& to);

} // namespace detail
WIRED_COURIER_NAMESPACE_END
