// A run as data for programs that draw it.
#pragma once

#include <courier/audit.hpp>
#include <courier/config.hpp>
#include <courier/recording/run.hpp>

#include <cstdint>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN

/// The run, with what the audit finds in it, as CBOR (RFC 8949): numbers of events in
/// columns, as typed arrays (RFC 8746), little-endian. docs/recordings.md has the names.
/// Throws only when memory runs out.
[[nodiscard]] std::vector<std::uint8_t> columns_of(const run& of, const audit_options& options = {});

WIRED_COURIER_NAMESPACE_END
