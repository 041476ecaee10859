// Text as it is written in recordings.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>

#include <fmt/format.h>

#include <cstdint>
#include <string>
#include <string_view>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// As JSON has it, in quotes; what is not UTF-8 is replaced.
[[nodiscard]] std::string quoted_json(std::string_view plain);

/// Whether it is the same in JSON but for the quotes.
[[nodiscard]] bool is_plain(std::string_view text) noexcept;

/// A name as a URI reference, in quotes: what may not be in one is escaped
/// (RFC 3986, 2.1).
[[nodiscard]] std::string as_source(std::string_view name);

/// A game time as an ISO 8601 duration.
void put_time(fmt::memory_buffer& to, std::int64_t ns);

} // namespace detail
WIRED_COURIER_NAMESPACE_END
