// Publishing from destructors, where an exception can go nowhere.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>

#include <string_view>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// Called from a catch clause; raises `fault_code::failure_lost`.
void report_lost_failure(std::string_view channel) noexcept;

/// Carries `step` out, which publishes on the channel of that name.
template <class Step>
void at_the_end([[maybe_unused]] std::string_view channel, Step step) noexcept {
#if WIRED_COURIER_EXCEPTIONS
    try {
        step();
    } catch (...) {
        report_lost_failure(channel);
    }
#else
    step();
#endif
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
