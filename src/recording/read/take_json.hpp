// Numbers and names out of JSON.
#pragma once

#include <courier/detail/base/value_type.hpp>

#include <nlohmann/json.hpp>

#include <algorithm>
#include <cstdint>
#include <limits>
#include <string>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// A whole number; false when it is something else.
[[nodiscard]] inline bool take_whole(const nlohmann::json& from, std::int64_t& into) {
    if (!from.is_number_integer() ||
        (from.is_number_unsigned() &&
         from.get<std::uint64_t>() > static_cast<std::uint64_t>(std::numeric_limits<std::int64_t>::max()))) {
        return false;
    }
    into = from.get<std::int64_t>();
    return true;
}

/// A value of an enumeration by its name or, where names are not known, its number.
[[nodiscard]] inline bool take_named(const nlohmann::json& from, const value_type& type, std::int64_t& into) {
    if (!from.is_string() || type.values.empty()) {
        return take_whole(from, into);
    }
    const auto& name = from.get_ref<const std::string&>();
    const auto* const found =
        std::find_if(type.values.begin(), type.values.end(), [&](const auto& v) { return v.name == name; });
    if (found == type.values.end()) {
        return false;
    }
    into = found->value;
    return true;
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
