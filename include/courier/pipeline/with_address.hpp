// Payloads together with the address that they were sent to.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/addressed_channel.hpp>
#include <courier/detail/delivery/address_told.hpp>
#include <courier/detail/flow/pipeline.hpp>

WIRED_COURIER_NAMESPACE_BEGIN

/// What `with_address()` gives: copies.
template <class Payload, class Address>
struct sent_to {
    Address address;
    Payload payload;
};

namespace detail {

template <class Address, class Next>
struct address_receiver {
    static constexpr bool ends = Next::ends;
    static constexpr bool asks = Next::asks;
    template <class Payload>
    using gives = received<Next, sent_to<Payload, Address>>;
    [[no_unique_address]] Next next;

    template <class Payload, class From>
    auto operator()(const Payload& payload, From* end) -> received<Next, sent_to<Payload, Address>> {
        const auto* const to = static_cast<const Address*>(address_here());
        if (to == nullptr) {
            return given_nothing<Next, sent_to<Payload, Address>>();
        }
        return next(sent_to<Payload, Address>{*to, payload}, end);
    }
};

template <class Address>
struct address_step : adaptor_base {
    template <class In>
    using output = sent_to<In, Address>;

    template <class, class Next>
    auto around(Next next) const {
        return address_receiver<Address, Next>{std::move(next)};
    }
};

} // namespace detail

/// A source of `sent_to`: payloads for one address on `source`, with that
/// address. Payloads for everyone or for a group are dropped.
///
///     in.subscribe(courier::with_address(bitten) | courier::slide(2), handler);
///     auto first = co_await courier::next(courier::with_address(bitten));     // first.address
template <class Payload, class Address>
auto with_address(const addressed_channel<Payload, Address>& source) {
    detail::tell_addresses(*detail::access::core(source));
    return source | detail::address_step<Address>{};
}

WIRED_COURIER_NAMESPACE_END
