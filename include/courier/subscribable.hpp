// The ways to subscribe that every source of payloads has.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/delivery_options.hpp>
#include <courier/detail/base/refusals.hpp>
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
    template <class Handler>
    [[nodiscard(WIRED_COURIER_DROPPED)]] subscription
    subscribe(Handler&& handler, // courier: options are those of delivery_options, in its order
              delivery_options<Payload> options = {},
              std::source_location where = std::source_location::current()) const {
        static_assert(detail::takes_handler<Source, std::decay_t<Handler>>, WIRED_COURIER_NO_HANDLER);
        std::decay_t<Handler> own(std::forward<Handler>(handler));
        return begin(own, options, where);
    }

    /// Attaches a member function with its object, which must outlive the
    /// subscription: `moored.subscribe<&Logbook::on_moored>(logbook)`.
    template <auto Method, class Object>
        requires std::is_member_function_pointer_v<decltype(Method)>
    [[nodiscard(WIRED_COURIER_DROPPED)]] subscription
    subscribe(Object& object, delivery_options<Payload> options = {},
              std::source_location where = std::source_location::current()) const {
        static_assert(detail::takes_handler<Source, detail::member_call<Method, Object>>, WIRED_COURIER_NO_HANDLER);
        detail::member_call<Method, Object> handler{&object};
        return begin(handler, options, where);
    }

    /// Attaches a free function: `moored.subscribe<&ring>()`.
    template <auto Function>
        requires std::is_pointer_v<decltype(Function)>
    [[nodiscard(WIRED_COURIER_DROPPED)]] subscription
    subscribe(delivery_options<Payload> options = {},
              std::source_location where = std::source_location::current()) const {
        static_assert(detail::takes_handler<Source, detail::function_call<Function>>, WIRED_COURIER_NO_HANDLER);
        detail::function_call<Function> handler;
        return begin(handler, options, where);
    }

protected:
    /// Is a base only.
    subscribable() = default;
    ~subscribable() = default;
    /// As the source is copied.
    subscribable(const subscribable&) = default;
    /// As the source is assigned.
    subscribable& operator=(const subscribable&) = default;

private:
    template <class Handler>
    subscription begin(Handler& handler, delivery_options<Payload>& options, std::source_location where) const {
        const auto& self = static_cast<const Source&>(*this);
        return detail::keep_subscription(self, detail::access::attach(self, handler, options, where, nullptr),
                                         options.retained, where);
    }
};

WIRED_COURIER_NAMESPACE_END
