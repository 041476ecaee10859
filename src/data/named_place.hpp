// Lines of wiring files as lines of code, so that whatever tells of code tells of
// them, too.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>

#include <cstdint>
#include <source_location>
#include <string_view>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// A place in a file. It is kept for as long as the program runs, once for each line,
/// since ledgers refer to places without owning them.
[[nodiscard]] std::source_location named_place(std::string_view file, std::uint32_t line);

} // namespace detail
WIRED_COURIER_NAMESPACE_END
