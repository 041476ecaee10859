// How, when and how often a subscription is served.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/detail/delivery/slot.hpp>
#include <courier/period.hpp>
#include <courier/stage.hpp>
#include <courier/unbounded.hpp>

#include <concepts>
#include <cstdint>
#include <functional>
#include <type_traits>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN

/// A test on the payload that decides whether a subscription is served. Made
/// from any copyable callable that takes the payload by const reference and
/// returns something that converts to bool; empty, it always holds.
template <class Payload>
class condition {
public:
    condition() noexcept = default;

    /// From a function of the payload, or of nothing, that returns `bool`.
    template <class F>
        requires(!std::same_as<std::remove_cvref_t<F>, condition> && std::predicate<std::decay_t<F>&, const Payload&>)
    condition(F&& test) // NOLINT(google-explicit-constructor): written as an option's value
        : test_([f = std::forward<F>(test)](const void* payload) mutable -> turn {
              return payload == nullptr || f(*static_cast<const Payload*>(payload)) ? turn::served : turn::condition;
          }) {}

    /// From a function of the payload, or of nothing, that returns `bool`.
    template <class F>
        requires(!std::same_as<std::remove_cvref_t<F>, condition> && !std::predicate<std::decay_t<F>&, const Payload&>)
    condition(F&&) { // NOLINT(google-explicit-constructor): the same
        static_assert(!std::same_as<F, F>, "courier: a condition takes the payload of the channel it is for, by const "
                                           "reference, and returns a bool");
    }

private:
    friend struct detail::guards;

    detail::condition_fn test_;
};

/// Delivery options, written as `{.stage = rules, .times = 1}`.
template <class Payload>
struct delivery_options {
    /// The place in the order of delivery.
    courier::stage stage = ordinary;

    /// Served this many times, the subscription ends, just
    /// before the last call, so that the handler may publish on the same
    /// channel without being called again.
    std::uint32_t times = detail::unbounded_times;

    /// Looked at for every payload, when the subscription's turn has come; a
    /// payload for which it does not hold counts neither as served nor towards
    /// `times`. If it throws, that is treated as if the handler had thrown.
    courier::condition<Payload> condition = {};

    /// When the subscription is live at all: while a period runs, or while a
    /// callable without arguments says so. What comes at other times counts
    /// neither as served nor towards `times`; `condition` is not looked at.
    courier::during during = {};

    /// Whether what the channel retained (`channel::retain_latest()`), or the
    /// current value of a state or formula, is wanted at once: the handler is
    /// then served it before `subscribe()` returns, as far as the options above
    /// allow. What it throws is thrown there; a subscriber stays subscribed.
    bool retained = false;
};

namespace detail {

/// The options as the engine looks at them: both tests as one function, an empty one when there is none.
slot_guard guard_of(std::uint32_t times, std::function<bool()>&& open, condition_fn&& condition);

/// The tests among the options.
struct guards {
    [[nodiscard]] static bool holds(const during& when) { return !when.open_ || when.open_(); }
    /// Whether there is anything to look at for a payload.
    template <class Payload>
    [[nodiscard]] static bool are_in(const delivery_options<Payload>& options) noexcept {
        return options.times != unbounded_times || options.during.open_ || options.condition.test_;
    }
    template <class Payload>
    static slot_guard of(delivery_options<Payload>& options) {
        return guard_of(options.times, std::move(options.during.open_), std::move(options.condition.test_));
    }
    template <class Payload>
    static condition_fn test_of(condition<Payload>& one) noexcept {
        return std::move(one.test_);
    }
};

} // namespace detail

WIRED_COURIER_NAMESPACE_END
