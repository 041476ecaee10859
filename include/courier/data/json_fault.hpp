// What a JSON text can have wrong with it, and how strictly it is read.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/coded_fault.hpp>
#include <courier/config.hpp>
#include <courier/fields.hpp>

#include <cstdint>
#include <string>
#include <string_view>

WIRED_COURIER_NAMESPACE_BEGIN

/// Each has a stable text form, see `id_of()`.
enum class json_code : std::uint8_t {
    not_json,      ///< the text is not JSON (RFC 8259), or nests more than 64 deep
    too_deep,      ///< structs and lists nest more than 16 deep
    wrong_type,    ///< a text where a number belongs, and the like
    out_of_range,  ///< a number that its field cannot hold
    unknown_value, ///< a name that the enumeration does not have
    unknown_field, ///< the struct has no field of that name
    missing_field, ///< a field that is neither optional nor has an initializer
    not_writable,  ///< a view of memory that it does not own, or a type of which nothing is known
};

WIRED_COURIER_ENUM_AS(json_code, not_json, "courier.data.not-json", too_deep, "courier.data.too-deep", wrong_type,
                      "courier.data.wrong-type", out_of_range, "courier.data.out-of-range", unknown_value,
                      "courier.data.unknown-value", unknown_field, "courier.data.unknown-field", missing_field,
                      "courier.data.missing-field", not_writable, "courier.data.not-writable")

/// Such as "courier.data.missing-field".
[[nodiscard]] std::string_view id_of(json_code code) noexcept;

/// One place in a JSON text that does not fit its type. `where` is that place as a JSON
/// pointer (RFC 6901), empty for the whole text; `what` goes on from there: "must be a whole
/// number from 0 to 255, but is a text".
using json_fault = coded_fault<json_code>;

/// What becomes of a field that a text does not have.
enum class missing_fields : std::uint8_t {
    refused, ///< unless they are optional, or have an initializer in the struct
    kept,    ///< the field keeps its value
};
/// What becomes of a name that the struct does not have.
enum class unknown_fields : std::uint8_t { refused, passed_over };
/// What becomes of a null where a field cannot be empty.
enum class null_fields : std::uint8_t {
    refused,    ///< unless the field is optional
    as_missing, ///< as if the field were not there
};

/// How strictly a text is read. As it is by default, the gateway reads requests and
/// replay reads recordings; a ferry, whose peers may be older or newer, reads with
/// `{.missing = missing_fields::kept, .unknown = unknown_fields::passed_over}`.
struct json_rules {
    missing_fields missing = missing_fields::refused;
    unknown_fields unknown = unknown_fields::refused;
    null_fields nulls = null_fields::refused;
};

WIRED_COURIER_NAMESPACE_END
