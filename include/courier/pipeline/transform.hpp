// Makes something else of each.
#pragma once

#include <courier/detail/pipeline.hpp>

namespace courier::inline WIRED_COURIER_ABI {
namespace detail {

template <class Change, class In>
using transformed = std::remove_cvref_t<std::invoke_result_t<Change&, const In&>>;

template <class Change, class Next>
struct transform_receiver {
    static constexpr bool ends = Next::ends;
    [[no_unique_address]] Change change;
    [[no_unique_address]] Next next;

    template <class Value>
        requires std::is_invocable_v<const Change&, const Value&> &&
                 callable<const Next&, const transformed<const Change, Value>&, ending*>
    auto operator()(const Value& value, ending* end) const {
        const auto& changed = std::invoke(change, value);
        return next(changed, end);
    }
    template <class Value>
    auto operator()(const Value& value, ending* end) {
        const auto& changed = std::invoke(change, value);
        return next(changed, end);
    }
};

template <class Change>
struct transform_step : adaptor_base {
    template <class In>
    using output = transformed<Change, In>;
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

} // namespace courier::inline WIRED_COURIER_ABI
