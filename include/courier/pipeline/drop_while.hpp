// Leaves out the beginning that passes a test.
#pragma once

#include <courier/detail/pipeline.hpp>

namespace courier::inline WIRED_COURIER_ABI {
namespace detail {

template <class Test, class Next>
struct drop_while_receiver {
    static constexpr bool ends = Next::ends;
    [[no_unique_address]] Test test;
    bool over;
    Next next;

    template <class Value>
    auto operator()(const Value& value, ending* end) -> received<Next, Value> {
        if (!over && std::invoke(test, value)) {
            return given_nothing<Next, Value>();
        }
        over = true;
        return next(value, end);
    }
};

template <class Test>
struct drop_while_step : adaptor_base {
    template <class In>
    using output = In;
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

} // namespace courier::inline WIRED_COURIER_ABI
