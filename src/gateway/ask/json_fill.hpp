// JSON from outside into a payload, looked at field by field.
#pragma once

#include <courier/config.hpp>
#include <courier/detail/base/value_type.hpp>

#include <nlohmann/json.hpp>

#include <string>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// Something that does not fit, and where, as a JSON pointer (RFC 6901).
struct misfit {
    std::string pointer;
    std::string what;   ///< "is a text, where a whole number from 0 to 255 belongs"
    std::string advice; ///< the nearest name there is; or empty
};

/// Fills in what `from` has; only what is optional may be left out. Everything that does
/// not fit is told. `table` null: there are no fields.
[[nodiscard]] std::vector<misfit> fill_fields(const nlohmann::json& from, const field_table* table, void* object);

} // namespace detail
WIRED_COURIER_NAMESPACE_END
