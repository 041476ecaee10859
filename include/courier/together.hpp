// Several changes that are announced as one.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/detail/values/value_core.hpp>

#include <type_traits>

WIRED_COURIER_NAMESPACE_BEGIN

/// Carries `changes` out, in which states are set. They have their new values
/// at once; announcements, and the refreshers that run again, wait for the end.
/// Each state that then has another value than at the beginning is announced
/// once, in the order in which they were first set. May be nested; the
/// outermost one counts. When `changes` throws, values set so far stay and are
/// announced all the same. Returns what `changes` returns.
///
///     courier::together([&] {
///         crates.set(3);
///         barrels.set(1);
///     });
template <class Changes>
decltype(auto) together(Changes&& changes) {
    struct guard {
        guard() noexcept { ++detail::this_hold.holds; }
        guard(const guard&) = delete;
        guard& operator=(const guard&) = delete;
        ~guard() noexcept(false) { // what handlers throw is thrown here, unless something is on its way already
            if (--detail::this_hold.holds == 0 && detail::this_values.graph != nullptr) {
                detail::settle_at_end(thrown);
            }
        }
        bool thrown = true;
    } all;
    if constexpr (std::is_void_v<decltype(changes())>) {
        changes();
        all.thrown = false;
    } else {
        decltype(auto) result = changes();
        all.thrown = false;
        return static_cast<decltype(changes())>(result);
    }
}

WIRED_COURIER_NAMESPACE_END
