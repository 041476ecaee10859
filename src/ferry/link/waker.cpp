// SPDX-License-Identifier: MIT
#include "ferry/link/broker_link.hpp"

#include <cerrno>
#include <cstdint>
#include <system_error>

#include <sys/eventfd.h>
#include <unistd.h>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

waker::waker() : descriptor_(::eventfd(0, EFD_NONBLOCK | EFD_CLOEXEC)) {
    if (descriptor_ < 0) {
        throw std::system_error(errno, std::generic_category(), "courier: a ferry's thread cannot be woken");
    }
}

waker::~waker() {
    ::close(descriptor_);
}

void waker::wake() const noexcept {
    constexpr std::uint64_t one = 1;
    static_cast<void>(::write(descriptor_, &one, sizeof one) == 0); // it can only be awake already
}

void waker::calm() const noexcept {
    std::uint64_t all = 0;
    static_cast<void>(::read(descriptor_, &all, sizeof all) == 0);
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
