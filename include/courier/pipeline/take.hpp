// Lets through the first few.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/detail/flow/pipeline.hpp>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

template <class Next>
struct take_receiver {
    static constexpr bool ends = true;
    static constexpr bool asks = Next::asks;
    template <class Value>
    using gives = received<Next, Value>;
    std::uint64_t left;
    Next next;

    template <class Value, class From>
    auto operator()(const Value& value, From* end) -> received<Next, Value> {
        if (left <= 1) {
            (*end)();
        }
        if (left != 0) {
            --left;
            return next(value, end);
        }
        return given_nothing<Next, Value>();
    }
};

struct take_step : adaptor_base {
    template <class In>
    using output = In;
    std::uint64_t count;

    template <class In, class Next>
    auto around(Next next) const {
        return take_receiver<Next>{count, std::move(next)};
    }
};

} // namespace detail

/// Lets through the first `count`; then the subscription ends, just before the
/// last call. None ends it with the first that comes.
inline auto take(std::uint64_t count) {
    return detail::take_step{{}, count};
}

WIRED_COURIER_NAMESPACE_END
