// Faults of a catalogue's document.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/coded_fault.hpp>
#include <courier/config.hpp>
#include <courier/fields.hpp>

#include <cstdint>
#include <string_view>

WIRED_COURIER_NAMESPACE_BEGIN

/// Each has a stable text form, see `id_of()`.
enum class catalogue_code : std::uint8_t {
    cannot_open,     ///< the file cannot be read, or has more than 64 MiB
    not_json,        ///< it is not JSON
    not_a_catalogue, ///< `to_asyncapi()` could not have written it
};

WIRED_COURIER_ENUM_AS(catalogue_code, cannot_open, "courier.catalogue.cannot-open", not_json,
                      "courier.catalogue.not-json", not_a_catalogue, "courier.catalogue.not-a-catalogue")

/// Such as "courier.catalogue.not-json".
[[nodiscard]] std::string_view id_of(catalogue_code code) noexcept;

/// `where` is the file, and the place in it as a JSON pointer.
using catalogue_fault = coded_fault<catalogue_code>;

/// Thrown when a document cannot be read as a catalogue.
using catalogue_error = coded_error<catalogue_code>;

WIRED_COURIER_NAMESPACE_END
