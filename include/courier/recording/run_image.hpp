// A run as bytes, and back: smaller than its lines, and read at once. Reports and the page have it.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/recording/run.hpp>

#include <string>
#include <string_view>

WIRED_COURIER_NAMESPACE_BEGIN

/// Column by column, in little-endian order, so that it compresses well. It is for programs of
/// this very version; keep recordings instead.
[[nodiscard]] std::string image_of(const run& of);

/// False where `image` is none of this version, or is cut; `into` is unspecified then.
[[nodiscard]] bool read_image(std::string_view image, run& into);

WIRED_COURIER_NAMESPACE_END
