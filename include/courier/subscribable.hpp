// The ways to subscribe that every source of payloads has.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/delivery_options.hpp>
#include <courier/detail/base/refusals.hpp>
#include <courier/detail/delivery/given_handler.hpp>
#include <courier/detail/delivery/handler.hpp>
#include <courier/detail/delivery/kept.hpp>
#include <courier/subscription.hpp>

#include <source_location>
#include <type_traits>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN

/// Base of `Source`: a channel, one address of a channel, a state, a formula, a list, a map or a pipeline.
template <class Source, class Payload>
class subscribable {
public:
    /// Attaches `handler`: any callable that takes the payload, a
    /// `std::span<const Payload>`, or nothing, and returns nothing or (but for
    /// one that takes a span) a `verdict`. One of an addressed channel may take
    /// the address in front of the payload. One that takes a span is called once
    /// for all that is published together (see `channel::publish_all()`), and with a
    /// span of one otherwise; delivery options count its calls. The handler is moved in; up to 48
    /// bytes of it are stored without an allocation of its own. A small
    /// trivially copyable handler whose call operator is const may be run on a
    /// copy of itself, so what it changes must lie outside it (a `mutable`
    /// lambda keeps its state).
    ///
    /// A handler that is subscribed twice is served twice. Checked builds tell of one that a
    /// subscriber has twice, and the audit does (`handler-twice`); release builds do not.
    ///
    /// Raises `fault_code::empty_handler` for a null function pointer or an
    /// empty `std::function`, and returns a subscription that is not live.
    ///
    /// A member function is given with its object, which must outlive the subscription:
    /// `moored.subscribe<&Logbook::on_moored>(logbook)`. A free function is given alone:
    /// `moored.subscribe<&ring>()`, or `moored.subscribe<&ring>({.times = 1})`.
    template <auto... Function, class Handler = delivery_options<Payload>>
    [[nodiscard(WIRED_COURIER_DROPPED)]] subscription
    subscribe(Handler&& handler = {},                               // courier: options are delivery_options
              detail::options_after<Payload, Handler> options = {}, // courier: options are delivery_options
              std::source_location where = std::source_location::current()) const {
        using given = detail::given_handler<Handler, Function...>;
        static_assert(given::is_in_brackets, WIRED_COURIER_METHOD_AS_ARGUMENT);
        static_assert(given::is_of_object, WIRED_COURIER_NO_OBJECT);
        if constexpr (given::is_in_brackets && given::is_of_object) {
            static_assert(detail::takes_handler<Source, typename given::type>, WIRED_COURIER_NO_HANDLER);
            given::take_options(std::forward<Handler>(handler), options);
            auto own = given::make(std::forward<Handler>(handler));
            const auto& self = static_cast<const Source&>(*this);
            return detail::keep_subscription(self, detail::access::attach(self, own, options, where, nullptr),
                                             options.retained, where);
        } else {
            return {};
        }
    }

protected:
    /// Is a base only.
    subscribable() = default;
    ~subscribable() = default;
    /// As the source is copied.
    subscribable(const subscribable&) = default;
    /// As the source is assigned.
    subscribable& operator=(const subscribable&) = default;
};

WIRED_COURIER_NAMESPACE_END
