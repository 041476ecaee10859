// Makes something else of each.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/detail/flow/pipeline.hpp>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

template <class Change, class In>
using transformed = std::remove_cvref_t<std::invoke_result_t<Change&, const In&>>;

template <class Change, class Next>
struct transform_receiver {
    static constexpr bool ends = Next::ends;
    static constexpr bool asks = Next::asks || runs_code<Change>;
    template <class Value>
    using gives = received<Next, transformed<Change, Value>>;
    [[no_unique_address]] Change change;
    [[no_unique_address]] Next next;

    template <class Value, class From>
        requires std::is_invocable_v<const Change&, const Value&> &&
                 callable<const Next&, const transformed<const Change, Value>&, const ending*>
    auto operator()(const Value& value, From* end) const -> received<const Next, transformed<const Change, Value>> {
        const auto& changed = std::invoke(change, value);
        if (is_over_after<Change>(end)) {
            return given_nothing<const Next, transformed<const Change, Value>>();
        }
        return next(changed, end);
    }
    template <class Value, class From>
    auto operator()(const Value& value, From* end) -> received<Next, transformed<Change, Value>> {
        const auto& changed = std::invoke(change, value);
        if (is_over_after<Change>(end)) {
            return given_nothing<Next, transformed<Change, Value>>();
        }
        return next(changed, end);
    }
};

template <class Change>
struct transform_step : adaptor_base {
    template <class In>
    using output = transformed<Change, In>;
    template <class In>
    static constexpr bool fits = std::is_invocable_v<Change&, const In&>;
    [[no_unique_address]] Change change;

    template <class In, class Next>
    auto around(Next next) const {
        return transform_receiver<Change, Next>{change, std::move(next)};
    }
};

} // namespace detail

/// Gives on what `change`, a function or a data member, makes of each.
template <class Change>
auto transform(Change change) {
    return detail::transform_step<Change>{{}, std::move(change)};
}

WIRED_COURIER_NAMESPACE_END
