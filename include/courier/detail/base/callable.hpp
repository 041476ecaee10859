// Whether something can be called as f(a, b), found out with as little work for
// the compiler as possible; std::invocable knows member pointers as well, and
// costs several times as much.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

template <class F, class... Arguments>
concept callable =
    requires(F&& f, Arguments&&... arguments) { static_cast<F&&>(f)(static_cast<Arguments&&>(arguments)...); };

} // namespace detail
WIRED_COURIER_NAMESPACE_END
