// Copying bytes without the header of C strings, which every includer would read.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>

#include <cstddef>
#if !defined(__GNUC__)
#include <cstring>
#endif

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

inline void copy_bytes(void* to, const void* from, std::size_t count) noexcept {
#if defined(__GNUC__)
    __builtin_memcpy(to, from, count);
#else
    std::memcpy(to, from, count);
#endif
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
