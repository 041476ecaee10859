// The page, which is part of the library.
// SPDX-License-Identifier: MIT
#pragma once

#include "gateway/ask/reply.hpp"

#include <courier/config.hpp>

#include <string_view>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// One HTML document with all that it needs; empty in a build without npm.
[[nodiscard]] std::string_view page_document() noexcept;
/// What the page may do: nothing that it did not bring along (Content Security Policy).
[[nodiscard]] std::string_view page_policy() noexcept;
[[nodiscard]] reply page_reply();

} // namespace detail
WIRED_COURIER_NAMESPACE_END
