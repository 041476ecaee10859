// Lets through the first few.
#pragma once

#include <courier/detail/pipeline.hpp>

namespace courier::inline WIRED_COURIER_ABI {
namespace detail {

template <class Next>
struct take_receiver {
    static constexpr bool ends = true;
    std::uint64_t left;
    Next next;

    template <class Value>
    auto operator()(const Value& value, ending* end) -> received<Next, Value> {
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

} // namespace courier::inline WIRED_COURIER_ABI
