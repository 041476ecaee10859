// A run as the page takes it.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/recording/run.hpp>

#include <string>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// Its image, compressed with gzip (RFC 1952).
[[nodiscard]] std::string packed_run(const run& of);

} // namespace detail
WIRED_COURIER_NAMESPACE_END
