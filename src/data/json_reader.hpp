// JSON into values whose types are known, looked at field by field. The only reader of JSON
// values there is.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/data/detail/kept_texts.hpp>
#include <courier/data/json_fault.hpp>
#include <courier/data/value_shape.hpp>
#include <courier/detail/base/value_type.hpp>

#include <nlohmann/json.hpp>

#include <string>
#include <string_view>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// Discarded (`is_discarded()`) when the text is not JSON, or nests too deep.
[[nodiscard]] nlohmann::json parsed_json(std::string_view text);

/// "a text", "a number", "an object", ...
[[nodiscard]] std::string_view kind_in_words(const nlohmann::json& value) noexcept;

/// Of a JSON pointer (RFC 6901): "/" and the key, escaped.
[[nodiscard]] std::string pointer_part(std::string_view key);

/// Fills in what `from` has, and returns all that does not fit; then `object` is filled in
/// part. `table` null: there are no fields. `texts`: keeps texts that fields only refer to;
/// without it these cannot be filled.
[[nodiscard]] std::vector<json_fault> read_fields(const nlohmann::json& from, const field_table* table, void* object,
                                                  const json_rules& rules, kept_texts* texts = nullptr);
/// The same for one value, which stands at the JSON pointer `below`.
[[nodiscard]] std::vector<json_fault> read_value(const nlohmann::json& from, const value_type& type, void* value,
                                                 const json_rules& rules, kept_texts* texts = nullptr,
                                                 std::string_view below = {});
/// As read_fields(), of a text.
[[nodiscard]] std::vector<json_fault> fields_into(std::string_view text, const field_table* table, void* object,
                                                  const json_rules& rules = {});
/// What read_value() would return, if views of texts can be filled; without the type.
[[nodiscard]] std::vector<json_fault> misfits_of(const nlohmann::json& from, const value_shape& shape,
                                                 const json_rules& rules);

} // namespace detail
WIRED_COURIER_NAMESPACE_END
