// Gives on what has come of all so far.
#pragma once

#include <courier/detail/pipeline.hpp>

namespace courier::inline WIRED_COURIER_ABI {
namespace detail {

template <class Result, class Combine, class Next>
struct running_fold_receiver {
    static constexpr bool ends = Next::ends;
    Result sum;
    [[no_unique_address]] Combine combine;
    Next next;

    template <class Value>
    auto operator()(const Value& value, ending* end) {
        sum = std::invoke(combine, std::move(sum), value);
        const Result now = sum; // what is done with it may bring the next one
        return next(now, end);
    }
};

template <class Result, class Combine>
struct running_fold_step : adaptor_base {
    template <class In>
    using output = Result;
    Result first;
    [[no_unique_address]] Combine combine;

    template <class In, class Next>
    auto around(Next next) const {
        return running_fold_receiver<Result, Combine, Next>{first, combine, std::move(next)};
    }
};

} // namespace detail

/// Combines each with what has come of all before it, starting from `first`,
/// and gives the result on: `running_fold(0, [](int sum, const Moored& m) { return sum + m.cargo; })`.
template <class Result, class Combine>
auto running_fold(Result first, Combine combine) {
    return detail::running_fold_step<Result, Combine>{{}, std::move(first), std::move(combine)};
}

} // namespace courier::inline WIRED_COURIER_ABI
