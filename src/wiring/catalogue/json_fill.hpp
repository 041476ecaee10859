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

enum class other_fields : bool {
    wrong, ///< all that are not optional have to be there, and no others
    as_is, ///< what is missing stays as it is, and what is not known is passed over
};

/// Fills in what `from` has. Everything that does not fit is told. `table` null: there
/// are no fields.
[[nodiscard]] std::vector<misfit> fill_fields(const nlohmann::json& from, const field_table* table, void* object,
                                              other_fields others = other_fields::wrong);

} // namespace detail
WIRED_COURIER_NAMESPACE_END
