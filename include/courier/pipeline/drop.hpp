// Leaves out the first few.
#pragma once

#include <courier/detail/pipeline.hpp>

namespace courier::inline WIRED_COURIER_ABI {
namespace detail {

template <class Next>
struct drop_receiver {
    static constexpr bool ends = Next::ends;
    std::uint64_t left;
    Next next;

    template <class Value>
    auto operator()(const Value& value, ending* end) -> received<Next, Value> {
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

} // namespace courier::inline WIRED_COURIER_ABI
