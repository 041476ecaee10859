// A right to send to one channel with addresses, from any thread.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/addressed_poster.hpp>
#include <courier/config.hpp>
#include <courier/inlet.hpp>

#include <source_location>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN

/// An inlet for an addressed channel.
template <class Payload, class Address = typename Payload::address>
class addressed_inlet {
public:
    using payload_type = Payload;

    addressed_inlet() noexcept = default;
    /// Made on the thread of `to`. Payloads reach `target` as if posted by it. Either may end first.
    explicit addressed_inlet(inbox& to, const addressed_poster<Payload, Address>& target)
        : route_(detail::make_route<item, backlog>(to.core_, detail::access::backlog(target))) {}
    /// Made on the thread of `to`. Payloads reach `target` as if posted by it. Either may end first.
    explicit addressed_inlet(inbox& to, addressed_channel<Payload, Address>& target,
                             std::source_location where = std::source_location::current())
        : route_(detail::make_route<item, backlog>(to.core_, to.own_backlog_to<backlog, Payload>(target, where))) {}

    /// For everyone.
    bool send(Payload payload) const { return route_.send(item{std::nullopt, std::move(payload)}); }

    /// For one address.
    bool send_to(const Address& to, Payload payload) const { return route_.send(item{to, std::move(payload)}); }

    /// Whether inbox and target are still there, so that what is sent can arrive. From any thread.
    [[nodiscard]] bool connected() const noexcept { return route_.open(); }

private:
    using backlog = detail::addressed_backlog<Payload, Address>;
    using item = addressed_payload<Payload, Address>;
    detail::route_user route_;
};

WIRED_COURIER_NAMESPACE_END
