// Text in URIs: percent-encoding (RFC 3986, 2.1).
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>

#include <optional>
#include <string>
#include <string_view>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// Letters, digits, "-", ".", "_" and "~".
[[nodiscard]] bool is_unreserved(char c) noexcept;
/// All bytes but the unreserved ones as '%' and two hexadecimal digits.
[[nodiscard]] std::string percent_encoded(std::string_view plain);
/// The other way round; nothing when there is another byte, or a '%' without its digits.
[[nodiscard]] std::optional<std::string> percent_decoded(std::string_view encoded);

} // namespace detail
WIRED_COURIER_NAMESPACE_END
