// The file that a recorder writes.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>

#include <cstdio>
#include <filesystem>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// Opens the file, empty, for one writer at a time. Throws `recording_error` when it cannot be
/// written, or another recorder, of this process or another one, writes it (where there is flock()).
[[nodiscard]] std::FILE* open_output(const std::filesystem::path& path);

} // namespace detail
WIRED_COURIER_NAMESPACE_END
