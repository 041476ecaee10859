// Leaves out a payload that equals the one before.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/detail/flow/pipeline.hpp>

#include <functional>
#include <optional>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

template <class In, class By, class Next>
struct only_changes_receiver {
    static constexpr bool ends = Next::ends;
    static constexpr bool asks = true;
    template <class Value>
    using gives = received<Next, Value>;
    using looked_at = std::remove_cvref_t<std::invoke_result_t<By&, const In&>>;
    [[no_unique_address]] By by;
    latest_value<looked_at> before;
    Next next;

    template <class Value, class From>
    auto operator()(const Value& value, From* end) -> received<Next, Value> {
        const auto& now = std::invoke(by, value);
        if (before && before.with([&now](const looked_at& one) { return one == now; })) {
            return given_nothing<Next, Value>();
        }
        before.put(static_cast<const looked_at&>(now));
        return end->is_over() ? given_nothing<Next, Value>() : next(value, end);
    }
};

template <class By>
struct only_changes_step : adaptor_base {
    template <class In>
    using output = In;
    template <class In>
    static constexpr bool fits = std::is_invocable_v<By&, const In&>;
    [[no_unique_address]] By by;

    template <class In, class Next>
    auto around(Next next) const {
        return only_changes_receiver<In, By, Next>{by, {}, std::move(next)};
    }
};

} // namespace detail

/// Lets through the first, and then each that is not the same as the one that
/// was let through before it. `by` names the part to compare, a function or a data
/// member; without it the whole is compared. That part is copied.
///
///     in.subscribe(moored | courier::only_changes(&Moored::boat), handler);
template <class By = std::identity>
auto only_changes(By by = {}) {
    return detail::only_changes_step<By>{{}, std::move(by)};
}

WIRED_COURIER_NAMESPACE_END
