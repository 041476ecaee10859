// Gives on the result of all payloads so far.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/detail/flow/pipeline.hpp>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

template <class Result, class Combine, class Next>
struct accumulate_receiver {
    static constexpr bool ends = Next::ends;
    static constexpr bool asks = true;
    template <class>
    using gives = received<Next, Result>;
    Result sum;
    [[no_unique_address]] Combine combine;
    Next next;

    template <class Value, class From>
    auto operator()(const Value& value, From* end) -> received<Next, Result> {
        sum = std::invoke(combine, std::move(sum), value);
        const Result now = sum; // its use may bring the next one
        return end->is_over() ? given_nothing<Next, Result>() : next(now, end);
    }
};

template <class Result, class Combine>
struct accumulate_step : adaptor_base {
    template <class In>
    using output = Result;
    template <class In>
    static constexpr bool fits = std::is_invocable_r_v<Result, Combine&, Result, const In&>;
    Result first;
    [[no_unique_address]] Combine combine;

    template <class In, class Next>
    auto around(Next next) const {
        return accumulate_receiver<Result, Combine, Next>{first, combine, std::move(next)};
    }
};

} // namespace detail

/// Combines each with the result of all before it, starting from `first`,
/// and gives the result on: `accumulate(0, [](int sum, const Moored& m) { return sum + m.cargo; })`.
template <class Result, class Combine>
auto accumulate(Result first, Combine combine) {
    return detail::accumulate_step<Result, Combine>{{}, std::move(first), std::move(combine)};
}

WIRED_COURIER_NAMESPACE_END
