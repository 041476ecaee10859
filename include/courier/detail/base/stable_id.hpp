// Enumerations whose values are known by stable texts, such as "courier.audit.growing".
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/detail/base/field_table.hpp>

#include <cstddef>
#include <string_view>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// The text of a value, of an enumeration that names all of them from 0 on (`WIRED_COURIER_ENUM_AS`).
template <class Enum>
[[nodiscard]] constexpr std::string_view stable_id(Enum value) noexcept {
    return values_of<Enum>[static_cast<std::size_t>(value)].name;
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
