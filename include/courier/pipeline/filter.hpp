// Lets through what passes a test.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/detail/flow/pipeline.hpp>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

template <class Test, class Next>
struct filter_receiver {
    static constexpr bool ends = Next::ends;
    static constexpr bool asks = Next::asks || runs_code<Test>;
    template <class Value>
    using gives = received<Next, Value>;
    [[no_unique_address]] Test test;
    [[no_unique_address]] Next next;

    template <class Value, class From>
        requires std::is_invocable_v<const Test&, const Value&> && callable<const Next&, const Value&, const ending*>
    auto operator()(const Value& value, From* end) const -> received<const Next, Value> {
        if (std::invoke(test, value) && !is_over_after<Test>(end)) {
            return next(value, end);
        }
        return given_nothing<const Next, Value>();
    }
    template <class Value, class From>
    auto operator()(const Value& value, From* end) -> received<Next, Value> {
        if (std::invoke(test, value) && !is_over_after<Test>(end)) {
            return next(value, end);
        }
        return given_nothing<Next, Value>();
    }
};

template <class Test>
struct filter_step : adaptor_base {
    template <class In>
    using output = In;
    template <class In>
    static constexpr bool fits = std::is_invocable_v<Test&, const In&>;
    [[no_unique_address]] Test test;

    template <class In, class Next>
    auto around(Next next) const {
        return filter_receiver<Test, Next>{test, std::move(next)};
    }
};

} // namespace detail

/// Lets through what passes `test`, a predicate or a data member.
///
///     in.subscribe(moored | courier::filter([](const Moored& m) { return m.cargo > 0; }), handler);
template <class Test>
auto filter(Test test) {
    return detail::filter_step<Test>{{}, std::move(test)};
}

WIRED_COURIER_NAMESPACE_END
