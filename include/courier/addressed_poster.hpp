// A right to post on one channel with addresses, through an outbox.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/poster.hpp>
#include <courier/posting_options.hpp>

#include <concepts>
#include <cstddef>
#include <source_location>
#include <span>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN

/// A poster for an addressed channel.
template <class Payload, class Address = typename Payload::address>
class addressed_poster : public detail::poster_of<detail::addressed_backlog<Payload, Address>> {
public:
    using payload_type = Payload;
    using address_type = Address;

    addressed_poster() noexcept = default;

    /// `target` is an addressed channel or a publisher on one; `how` says which payloads wait, and how
    /// many. Either side may end first.
    template <class Target>
    addressed_poster(outbox& through, Target& target, posting_options<Payload> how = {},
                     std::source_location where = std::source_location::current())
        : base(detail::backlog_for_poster<backlog>(through, target, std::move(how), where)) {}

    /// For everyone.
    bool post(Payload payload, std::source_location where = std::source_location::current()) const {
        backlog* const to = this->begin(where);
        return to != nullptr && to->post(std::move(payload));
    }

    /// For one address.
    bool post_to(const Address& to, Payload payload,
                 std::source_location where = std::source_location::current()) const {
        backlog* const way = this->begin(where);
        return way != nullptr && way->post_to(to, std::move(payload));
    }

    /// For each address that is a member now, a copy; returns how many were taken.
    template <std::same_as<group<Address>> Group>
    std::size_t post_to(const Group& to, const Payload& payload,
                        std::source_location where = std::source_location::current()) const {
        return detail::count_taken(to, [&](const Address& member) { return post_to(member, payload, where); });
    }

    /// A copy of each for its address, or for everyone if it has none, in their order; how many were taken. If the copy
    /// of one throws, those before it wait.
    std::size_t post_all(std::span<const addressed_payload<Payload, Address>> all,
                         std::source_location where = std::source_location::current()) const {
        backlog* const to = this->begin(where);
        return to != nullptr ? to->post_all(all) : 0;
    }

private:
    using backlog = detail::addressed_backlog<Payload, Address>;
    using base = detail::poster_of<backlog>;
};

WIRED_COURIER_NAMESPACE_END
