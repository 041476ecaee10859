// Leaves out the first few.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/detail/flow/pipeline.hpp>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

template <class Next>
struct drop_receiver {
    static constexpr bool ends = Next::ends;
    static constexpr bool asks = Next::asks;
    template <class Value>
    using gives = received<Next, Value>;
    std::uint64_t left;
    Next next;

    template <class Value, class From>
    auto operator()(const Value& value, From* end) -> received<Next, Value> {
        if (left != 0) {
            --left;
            return given_nothing<Next, Value>();
        }
        return next(value, end);
    }
};

struct drop_step : adaptor_base {
    template <class In>
    using output = In;
    std::uint64_t count;

    template <class In, class Next>
    auto around(Next next) const {
        return drop_receiver<Next>{count, std::move(next)};
    }
};

} // namespace detail

/// Leaves out the first `count`.
inline auto drop(std::uint64_t count) {
    return detail::drop_step{{}, count};
}

WIRED_COURIER_NAMESPACE_END
