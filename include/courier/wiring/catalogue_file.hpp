// A catalogue as a document that other tools read: AsyncAPI 3.0, its payloads as
// JSON Schema.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/wiring/catalogue.hpp>
#include <courier/wiring/catalogue_fault.hpp>

#include <filesystem>
#include <string>
#include <string_view>

WIRED_COURIER_NAMESPACE_BEGIN

/// An AsyncAPI 3.0 document, indented. The program sends on its channels and states
/// and receives on its actions and queries, whose answers are replies. What AsyncAPI
/// has no word for (phases, stages, targets, which channels are states) is in
/// extensions, "x-phases" and so on. https://www.asyncapi.com/docs/reference/specification/v3.0.0
///
/// Equal catalogues give equal texts. Throws only when memory runs out.
[[nodiscard]] std::string to_asyncapi(const catalogue& all);

/// Reads such a document back; the catalogue equals the written one. `file` is
/// for messages. Unknown members are skipped. Throws `catalogue_error`.
[[nodiscard]] catalogue catalogue_of(std::string_view document, std::string_view file = "catalogue");

/// Reads it from a file of at most 64 MiB.
[[nodiscard]] catalogue read_catalogue(const std::filesystem::path& file);

WIRED_COURIER_NAMESPACE_END
