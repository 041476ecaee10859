// Recorded payloads back into objects, as their fields are known.
#pragma once

#include <courier/detail/base/value_type.hpp>
#include <courier/recording/detail/kept_texts.hpp>

#include <nlohmann/json.hpp>

#include <string>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// False when a field is missing or of another type; then its name is in `wrong`.
bool read_fields(const nlohmann::json& from, const field_table& table, void* object, kept_texts& texts,
                 std::string& wrong);

} // namespace detail
WIRED_COURIER_NAMESPACE_END
