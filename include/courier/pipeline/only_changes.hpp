// Leaves out what is as the one before.
#pragma once

#include <courier/detail/pipeline.hpp>

#include <functional>
#include <optional>

namespace courier::inline WIRED_COURIER_ABI {
namespace detail {

template <class In, class By, class Next>
struct only_changes_receiver {
    static constexpr bool ends = Next::ends;
    using looked_at = std::remove_cvref_t<std::invoke_result_t<By&, const In&>>;
    [[no_unique_address]] By by;
    std::optional<looked_at> before;
    Next next;

    template <class Value>
    auto operator()(const Value& value, ending* end) -> received<Next, Value> {
        const auto& now = std::invoke(by, value);
        if (before && *before == now) {
            return given_nothing<Next, Value>();
        }
        put(before, static_cast<const looked_at&>(now));
        return next(value, end);
    }
};

template <class By>
struct only_changes_step : adaptor_base {
    template <class In>
    using output = In;
    [[no_unique_address]] By by;

    template <class In, class Next>
    auto around(Next next) const {
        return only_changes_receiver<In, By, Next>{by, std::nullopt, std::move(next)};
    }
};

} // namespace detail

/// Lets through the first, and then each that is not the same as the one that
/// was let through before it. `by` tells what to look at, a function or a data
/// member; without it the whole is compared. What is looked at is copied.
///
///     in.subscribe(moored | courier::only_changes(&Moored::boat), handler);
template <class By = std::identity>
auto only_changes(By by = {}) {
    return detail::only_changes_step<By>{{}, std::move(by)};
}

} // namespace courier::inline WIRED_COURIER_ABI
