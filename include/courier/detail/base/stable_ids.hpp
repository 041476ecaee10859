// Enumerations whose values are known by stable texts, such as "courier.audit.growing".
#pragma once

#include <courier/config.hpp>
#include <courier/detail/base/field_table.hpp>

#include <array>
#include <cstddef>
#include <cstdint>
#include <string_view>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// What `wired_courier_values()` of such an enumeration returns; `ids` are in the order of its values.
template <std::size_t Count>
[[nodiscard]] consteval auto stable_ids(const std::string_view (&ids)[Count]) {
    std::array<enum_value, Count> all{};
    for (std::size_t i = 0; i < Count; ++i) {
        all[i] = {ids[i], static_cast<std::int64_t>(i)};
    }
    return named_values{all};
}

template <class Enum>
[[nodiscard]] constexpr std::string_view stable_id(Enum value) noexcept {
    return values_of<Enum>[static_cast<std::size_t>(value)].name;
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
