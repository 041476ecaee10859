// One writer at a time for each file.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>

#if __has_include(<sys/file.h>)
#include <cerrno>
#include <sys/file.h>
#include <sys/stat.h>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// Locks an open file until its descriptor closes; false when another descriptor, of this process
/// or another one, holds the lock. Devices and pipes stay unlocked: many may write to /dev/null.
[[nodiscard]] inline bool lock_file(int descriptor) noexcept {
    struct stat about {};
    if (::fstat(descriptor, &about) == 0 && !S_ISREG(about.st_mode)) {
        return true;
    }
    return ::flock(descriptor, LOCK_EX | LOCK_NB) == 0 || errno != EWOULDBLOCK;
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
#endif
