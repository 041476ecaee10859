// Bytes as text, and back: RFC 4648, section 4.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>

#include <optional>
#include <string>
#include <string_view>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

[[nodiscard]] std::string to_base64(std::string_view bytes);
/// Nothing where the text is none.
[[nodiscard]] std::optional<std::string> from_base64(std::string_view text);

} // namespace detail
WIRED_COURIER_NAMESPACE_END
