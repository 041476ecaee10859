// Forwards what one channel carries into another.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/addressed_poster.hpp>
#include <courier/addressed_publisher.hpp>
#include <courier/channel.hpp>
#include <courier/config.hpp>
#include <courier/delivery_options.hpp>
#include <courier/detail/base/owned.hpp>
#include <courier/detail/delivery/relay_link.hpp>
#include <courier/poster.hpp>
#include <courier/publisher.hpp>
#include <courier/subscription.hpp>

#include <concepts>
#include <functional>
#include <optional>
#include <source_location>
#include <type_traits>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN

/// What a relay's change returns to publish to one address.
template <class Address, class Payload>
struct for_address {
    Address address;
    Payload payload;
};

namespace detail {

template <class>
inline constexpr bool is_for_address = false;
template <class Address, class Payload>
inline constexpr bool is_for_address<for_address<Address, Payload>> = true;

template <class>
inline constexpr bool is_optional = false;
template <class Value>
inline constexpr bool is_optional<std::optional<Value>> = true;

// A channel stands for a publisher on it.
template <class Payload>
publisher<Payload> publisher_on(channel<Payload>& to) {
    return publisher<Payload>{to};
}
template <class Payload, class Address>
addressed_publisher<Payload, Address> publisher_on(addressed_channel<Payload, Address>& to) {
    return addressed_publisher<Payload, Address>{to};
}
template <class Payload>
publisher<Payload> publisher_on(const publisher<Payload>& to) {
    return to;
}
template <class Payload, class Address>
addressed_publisher<Payload, Address> publisher_on(const addressed_publisher<Payload, Address>& to) {
    return to;
}

template <class Payload>
poster<Payload> publisher_on(const poster<Payload>& to) {
    return to;
}
template <class Payload, class Address>
addressed_poster<Payload, Address> publisher_on(const addressed_poster<Payload, Address>& to) {
    return to;
}

/// Forwarded payloads wait; then nothing is nested, and a circle is allowed.
template <class Target>
inline constexpr bool is_deferred = requires(const Target& to) { to.waiting(); };

template <class Target>
channel_core& target_of(const Target& to) noexcept {
    if constexpr (is_deferred<Target>) {
        return *access::backlog(to).get()->target;
    } else {
        return *access::core(to);
    }
}

/// Whether a publisher, or poster, can send on a value that a relay's change returns.
template <class Publisher, class Value>
consteval bool sends_on() {
    if constexpr (is_optional<Value>) {
        return sends_on<Publisher, typename Value::value_type>();
    } else if constexpr (is_for_address<Value>) {
        return requires(const Publisher& to, const Value& value) { to.publish_to(value.address, value.payload); } ||
               requires(const Publisher& to, const Value& value) { to.post_to(value.address, value.payload); };
    } else {
        return std::is_convertible_v<const Value&, const typename Publisher::payload_type&>;
    }
}

template <class Publisher, class Value>
void send_on(const Publisher& to, const Value& value, std::source_location where) {
    if constexpr (is_optional<Value>) {
        if (value) {
            send_on(to, *value, where);
        }
    } else if constexpr (is_for_address<Value>) {
        if constexpr (is_deferred<Publisher>) {
            to.post_to(value.address, value.payload, where);
        } else {
            to.publish_to(value.address, value.payload, where);
        }
    } else {
        if constexpr (is_deferred<Publisher>) {
            to.post(value, where);
        } else {
            to.publish(value, where);
        }
    }
}

} // namespace detail

/// Forwards everything from one channel into another while it lives, with the
/// payload as it is or changed, so that a low-level happening becomes a
/// gameplay event without either side knowing of the other:
///
///     courier::relay storm_is_danger{weather.storm_broke(), board.danger()};
///     courier::relay bites{collisions, barges.bitten(), [](const Collided& c) -> std::optional<BargeBitten> {
///         if (c.what != body::wyrm) return std::nullopt;          // not forwarded
///         return BargeBitten{.barge = c.with, .crates = 1};
///     }};
///
/// The source is a channel, or one address of a channel; the target a channel,
/// a publisher, or a poster, through whose outbox the payload goes as a copy. The change returns a payload, a
/// `std::optional` of one, or a `for_address` when the target is addressed.
///
/// Forwarding happens in the middle of the source's delivery, at the place
/// that the delivery options give it, as a nested publish. A relay that would
/// close a circle of relays, none of which goes through an outbox, is refused (`fault_code::relay_circle`) and is not
/// live; circles that handlers close are ended by the depth limit.
///
/// Movable. Either channel may end first; the relay then is no longer live.
/// Both channels must belong to one thread.
class [[nodiscard("courier: nothing is forwarded once this relay is destroyed")]] relay {
public:
    /// Forwards nothing.
    relay() noexcept = default;

    /// Forwards payloads as they are.
    template <class Source, class Target>
    relay(const Source& from, Target&& to, std::source_location where = std::source_location::current())
        : relay(
              from, to, [](const typename Source::payload_type& payload) -> const auto& { return payload; }, {},
              where) {}

    /// Forwards what `change` makes of them.
    template <class Source, class Target, class Change>
        requires std::invocable<Change&, const typename Source::payload_type&>
    relay(const Source& from, Target&& to, Change change, delivery_options<typename Source::payload_type> options = {},
          std::source_location where = std::source_location::current()) {
        auto target = detail::publisher_on(to);
        if (!target.connected()) {
            return;
        }
        link_.reset(detail::add_relay(*detail::access::core(from), detail::target_of(target), where,
                                      detail::is_deferred<decltype(target)>));
        if (link_ == nullptr) {
            return;
        }
        using payload_type = typename Source::payload_type;
        constexpr bool fits =
            detail::sends_on<decltype(target),
                             std::remove_cvref_t<std::invoke_result_t<Change&, const payload_type&>>>();
        static_assert(fits, "courier: this relay forwards another payload than its target carries, or to an address "
                            "that the target does not have");
        if constexpr (fits) {
            in_ = from.subscribe([target = std::move(target), change = std::move(change), where](
                                     const payload_type& payload) { detail::send_on(target, change(payload), where); },
                                 std::move(options), where);
        }
    }

    /// Forwards nothing from now on, not even later in a publish under way.
    void end() noexcept {
        in_.end();
        link_.reset();
    }

    /// Whether there is something at both ends.
    [[nodiscard]] bool live() const noexcept { return in_.live() && !link_->to->closed; }

    /// Stops forwarding for a while, as `subscription::pause()` does.
    void pause() noexcept { in_.pause(); }
    /// Forwards again.
    void resume() noexcept { in_.resume(); }

private:
    detail::owned<detail::relay_link, detail::remove_relay> link_;
    subscription in_; // declared last, so that it ends first
};

WIRED_COURIER_NAMESPACE_END
