// Leaves out the beginning that passes a test.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/detail/flow/pipeline.hpp>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

template <class Test, class Next>
struct drop_while_receiver {
    static constexpr bool ends = Next::ends;
    static constexpr bool asks = true;
    template <class Value>
    using gives = received<Next, Value>;
    [[no_unique_address]] Test test;
    bool over;
    Next next;

    template <class Value, class From>
    auto operator()(const Value& value, From* end) -> received<Next, Value> {
        if (!over && std::invoke(test, value)) {
            return given_nothing<Next, Value>();
        }
        over = true;
        if (end->is_over()) {
            return given_nothing<Next, Value>();
        }
        return next(value, end);
    }
};

template <class Test>
struct drop_while_step : adaptor_base {
    template <class In>
    using output = In;
    template <class In>
    static constexpr bool fits = std::is_invocable_v<Test&, const In&>;
    [[no_unique_address]] Test test;

    template <class In, class Next>
    auto around(Next next) const {
        return drop_while_receiver<Test, Next>{test, false, std::move(next)};
    }
};

} // namespace detail

/// Leaves out what comes until the first that does not pass `test`.
template <class Test>
auto drop_while(Test test) {
    return detail::drop_while_step<Test>{{}, std::move(test)};
}

WIRED_COURIER_NAMESPACE_END
