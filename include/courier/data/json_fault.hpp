// What a JSON text can have wrong with it, and how strictly it is read.
#pragma once

#include <courier/config.hpp>

#include <cstdint>
#include <string>
#include <string_view>

WIRED_COURIER_NAMESPACE_BEGIN

enum class json_fault_kind : std::uint8_t {
    not_json,      ///< the text is not JSON (RFC 8259), or nests more than 64 deep
    too_deep,      ///< structs and lists nest more than 16 deep
    wrong_type,    ///< a text where a number belongs, and the like
    out_of_range,  ///< a number that its field cannot hold
    unknown_value, ///< a name that the enumeration does not have
    unknown_field,
    missing_field,
    not_writable, ///< a view of memory that it does not own, or a type of which nothing is known
};

/// "courier.data.missing-field", ...
[[nodiscard]] std::string_view id_of(json_fault_kind kind) noexcept;

/// One place in a JSON text that does not fit its type.
struct json_fault {
    json_fault_kind kind;
    std::string pointer; ///< the place, as a JSON pointer (RFC 6901); empty: the whole text
    std::string what;    ///< "is a text, where a whole number from 0 to 255 belongs"
    std::string nearest; ///< the name that was probably meant; or empty

    /// "/crates is a text, where a whole number belongs [courier.data.wrong-type]"
    [[nodiscard]] std::string text() const;
};

enum class missing_fields : std::uint8_t {
    refused, ///< unless they are optional, or have an initializer in the struct
    kept,    ///< the field keeps its value
};
enum class unknown_fields : std::uint8_t { refused, passed_over };
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
