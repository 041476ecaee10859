// A named right to publish on an addressed channel.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/addressed_channel.hpp>
#include <courier/config.hpp>
#include <courier/group.hpp>
#include <courier/publisher.hpp>

#include <source_location>
#include <string_view>

WIRED_COURIER_NAMESPACE_BEGIN

/// A `publisher` that can also publish to an address or a group. The channel
/// may die first, as for every publisher.
template <class Payload, class Address = typename Payload::address>
class addressed_publisher : public publisher<Payload> {
public:
    /// Not connected.
    addressed_publisher() noexcept = default;

    /// `name` says who publishes, for messages and reports, and is copied. The channel may end first.
    explicit addressed_publisher(addressed_channel<Payload, Address>& target, std::string_view name = {})
        : publisher<Payload>(target, name) {}

    /// As `addressed_channel::publish_to()`.
    receipt publish_to(const Address& address, const Payload& payload,
                       std::source_location where = std::source_location::current()) const {
        if (!this->connected()) {
            return detail::receipts::made(0, detail::receipt_closed);
        }
        return this->as_named(
            [&](const std::string* name) { return detail::publish_at(*this->core_, address, &payload, where, name); });
    }
    /// To the members of a group, as `addressed_channel::publish_to()`.
    receipt publish_to(const group<Address>& to, const Payload& payload,
                       std::source_location where = std::source_location::current()) const {
        if (!this->connected()) {
            return detail::receipts::made(0, detail::receipt_closed);
        }
        return this->as_named(
            [&](const std::string* name) { return detail::publish_to_group(*this->core_, to, payload, where, name); });
    }
};

WIRED_COURIER_NAMESPACE_END
