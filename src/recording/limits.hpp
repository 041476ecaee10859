// How long lines may get.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>

#include <cstddef>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// Lines of up to so many bytes are read many at a time.
inline constexpr std::size_t usual_line = std::size_t{1} << 20;
/// No recording has a longer one.
inline constexpr std::size_t longest_line = std::size_t{16} << 20;
/// What can be long, as turns and payload are, is left out beyond so many bytes.
inline constexpr std::size_t longest_part = longest_line / 2;
/// Names and the like are cut to so many bytes.
inline constexpr std::size_t longest_name = std::size_t{16} << 10;

} // namespace detail
WIRED_COURIER_NAMESPACE_END
