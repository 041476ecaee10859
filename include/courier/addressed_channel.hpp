// A channel whose payloads may be for one address, a group, or everyone.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/channel.hpp>
#include <courier/config.hpp>
#include <courier/delivery_options.hpp>
#include <courier/detail/base/forward.hpp>
#include <courier/detail/base/in_use.hpp>
#include <courier/detail/delivery/address_code.hpp>
#include <courier/detail/delivery/address_text.hpp>
#include <courier/detail/delivery/address_told.hpp>
#include <courier/detail/delivery/kept_by_address.hpp>
#include <courier/detail/delivery/publish_at.hpp>
#include <courier/group.hpp>
#include <courier/receipt.hpp>
#include <courier/subscription.hpp>

#include <cstddef>
#include <cstdint>
#include <source_location>
#include <string_view>
#include <type_traits>
#include <utility>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN

template <class Payload, class Address>
class addressed_publisher; // courier: #include <courier/addressed_publisher.hpp>
template <class Payload, class Address>
class addressed_source; // courier: #include <courier/addressed_channel.hpp>

namespace detail {

template <class Members, class Each, class Payload>
receipt publish_to_each(channel_core& core, const Members& members, Each each, const Payload& payload,
                        std::source_location where, const std::string* publisher) {
    work_area parts(core);
    const auto take = [&](const auto& member) { parts.add(find_at(*core.book, member).first); };
    each(take);
    const bool noted = ledger_built_in && (core.work & work_noted) != 0;
    const publish_note note{publisher, noted ? label_of_group(members) : address_label{}};
    return deliver_to_many(core, parts.list, &payload, where, note);
}

template <class Payload, class Address>
receipt publish_to_group(channel_core& core, const group<Address>& to, const Payload& payload,
                         std::source_location where, const std::string* publisher = nullptr) {
    if constexpr (checked_build) {
        check_use(core, "published on", where);
    }
    if ((core.work & work_keeps) == 0) [[likely]] {
        return publish_to_each(
            core, to, [&to](auto visit) { to.each(visit); }, payload, where, publisher);
    }
    const std::vector<Address> members = to.members(); // copying may end the group, or the channel
    const held until_then(core);
    for (const Address& member : members) {
        if (!core.closed) {
            keep_at_address(core, &member, &payload);
        }
    }
    return core.closed ? receipts::made(0, receipt_closed)
                       : publish_to_each(
                             core, members,
                             [&members](auto visit) {
                                 for (const Address& member : members) {
                                     visit(member);
                                 }
                             },
                             payload, where, publisher);
}

template <class F, class Payload, class Address>
inline constexpr bool hears_address = takes_address<F, Payload, Address> || takes_any_address<F, Payload, Address>;

template <class Payload, class Address, class F>
inline constexpr bool takes_handler<addressed_channel<Payload, Address>, F> =
    hears_address<F, Payload, Address> || takes_posts<F, Payload, Address> || handler_fits<F, Payload>();
template <class Payload, class Address, class F>
inline constexpr bool takes_handler<addressed_source<Payload, Address>, F> =
    hears_address<F, Payload, Address> || handler_fits<F, Payload>();

} // namespace detail

/// A channel on which a payload can be sent to one address: an entity's id, a
/// player, a room.
///
///     courier::addressed_channel<BargeBitten, int> bitten{"barges.bitten"};
///     in.subscribe(bitten.at(3), handler);         // hears payloads for barge 3 and for everyone
///     in.subscribe(bitten, handler);               // listens to all
///     bitten.publish_to(3, {.crates = 2});         // subscribers at 3, and of all addresses
///     bitten.publish_to(convoy, {.crates = 1});    // a group: those at its members' addresses, each once
///     bitten.publish({.crates = 1});               // everyone
///
/// A handler may take the address in front of the payload: `(int barge, const
/// BargeBitten&)`. One that listens to all is then served payloads for one
/// address, but none for everyone or for a group, which have no address;
/// with a pointer, `(const int* barge, const BargeBitten&)`, it is served
/// everything, and the pointer is null for those. One that is subscribed at an
/// address hears it.
///
/// An address is plain data of at most eight bytes without padding (a number,
/// an enum, a pointer, a struct of an index and a generation), compared by its
/// bytes, or any other copyable type with `std::hash` and `==`. An address
/// needs no declaration: it exists while somebody is subscribed at it, and
/// takes no room otherwise. Finding one takes the same few steps however many
/// there are.
///
/// Everything that `channel` promises holds here as well, the order too: stage
/// first, then order of subscription, whatever address each one subscribed at.
/// A payload may name its usual address type as `using address = int;`.
template <class Payload, class Address>
class addressed_channel : public channel<Payload>, public subscribable<addressed_channel<Payload, Address>, Payload> {
    static_assert(std::is_same_v<Address, std::remove_cvref_t<Address>>,
                  "courier: an address is a value, without const or reference");
    static_assert(detail::fits_a_code<Address> || detail::hashed_address<Address>,
                  "courier: an address is plain data of at most eight bytes without padding (a number, an enum, a "
                  "pointer), or a type with std::hash and ==");

public:
    using address_type = Address;

    /// `name` is for messages and reports and is copied.
    explicit addressed_channel(std::string_view name) : channel<Payload>(name, detail::addressing_by<Address>) {}

    using subscribable<addressed_channel<Payload, Address>, Payload>::subscribe;

    /// Serves subscribers at `address` and those that listen to
    /// all. When nobody is subscribed at the address, the receipt says
    /// `vacant()`. Otherwise as `publish()`.
    receipt publish_to(const Address& address, const Payload& payload,
                       std::source_location where = std::source_location::current()) {
        return detail::publish_at(*this->core_, address, &payload, where);
    }

    /// Serves subscribers at the address of any member of `to`,
    /// and those that listen to all, in the channel's order and each once. When
    /// nobody is subscribed at any member's address, the receipt says
    /// `vacant()`. Allocates nothing once the channel's work area (a pointer
    /// for each subscription that was reached) is large enough.
    receipt publish_to(const group<Address>& to, const Payload& payload,
                       std::source_location where = std::source_location::current()) {
        return detail::publish_to_group(*this->core_, to, payload, where);
    }

    /// Does not compile; the message says what to write instead.
    template <class Never = void>
    receipt publish_to(const Address&, const Payload&) const {
        static_assert(!std::is_void_v<Never>, "courier: a const channel can be subscribed to only; to publish, hold "
                                              "the channel itself or a courier::addressed_publisher");
        return {};
    }

    /// One address, to be subscribed at: `in.subscribe(bitten.at(3), handler)`.
    /// Use it at once; it must not outlive the channel.
    [[nodiscard]] addressed_source<Payload, Address> at(Address address) const { return {*this, std::move(address)}; }

    /// As `channel::retain_latest()`, for each address: a handler subscribed at
    /// an address is served the latest payload sent to it or to everyone, whichever
    /// is newer; one that listens to all, the latest of each address and of
    /// everyone, in the order in which they were sent. An address takes room
    /// from the first payload that is sent to it on.
    // clang-format off
    void retain_latest()
        requires std::copy_constructible<Payload>
    {
        detail::keep_in(*this->core_, new detail::kept_by_address<Payload, Address>());
    }
    // clang-format on

    /// How many addresses somebody is subscribed at. In the middle of a publish
    /// on this channel, those that were left during it still count.
    [[nodiscard]] std::size_t addresses() const noexcept { return this->core_->book->size(); }

    /// Whether somebody is subscribed at `address`, be it paused.
    [[nodiscard]] bool has(const Address& address) const {
        return detail::anybody_at(*this->core_, detail::find_at(*this->core_->book, address).first);
    }

    /// How many publishes were for an address or a group where nobody was
    /// subscribed, and where the newest one of them was made (in a module that
    /// has been unloaded since, its file name is gone with it).
    [[nodiscard]] std::uint64_t vacant_publishes() const noexcept { return this->core_->book->vacant(); }
    /// Where the latest such publish was made; an empty place when there was none.
    [[nodiscard]] std::source_location last_vacant() const noexcept { return this->core_->book->last_vacant(); }

private:
    friend class addressed_source<Payload, Address>;
    friend class hub;
    friend class subscriber;
    friend struct detail::access;

    template <class Handler>
    detail::slot* attach(Handler& handler, delivery_options<Payload>& options, std::source_location where,
                         detail::ownership whose) const {
        if constexpr (detail::hears_address<Handler, Payload, Address>) {
            detail::tell_addresses(*this->core_);
            detail::told_of_address<Handler, Payload, Address> told{std::move(handler)};
            return detail::attach_handler<Payload>(*this->core_, told, options, where, whose);
        } else if constexpr (detail::takes_posts<Handler, Payload, Address>) {
            detail::tell_addresses(*this->core_);
            return detail::attach_with(*this->core_, detail::posts_ops<Handler, Payload, Address>, &handler, options,
                                       where, whose, nullptr);
        } else {
            return detail::attach_handler<Payload>(*this->core_, handler, options, where, whose);
        }
    }
    detail::slot* attach_ops(const detail::handler_ops* ops, void* handler, stage place, std::source_location where,
                             detail::ownership whose) const {
        return detail::attach(*this->core_, {ops, handler, place, where, whose});
    }

    explicit addressed_channel(detail::channel_core& core) noexcept : channel<Payload>(core) {}
};

/// One address of a channel, as the source of a subscription.
template <class Payload, class Address>
class addressed_source : public subscribable<addressed_source<Payload, Address>, Payload> {
public:
    using payload_type = Payload;
    using address_type = Address;

private:
    friend class addressed_channel<Payload, Address>;
    friend class subscriber;
    friend struct detail::access;

    addressed_source(const addressed_channel<Payload, Address>& from, Address&& address)
        : core_(from.core_), address_(std::move(address)) {}

    template <class Handler>
    detail::slot* attach(Handler& handler, delivery_options<Payload>& options, std::source_location where,
                         detail::ownership whose) const {
        return detail::attach_at(address_, [&](const detail::address_request& at) {
            if constexpr (detail::hears_address<Handler, Payload, Address>) {
                detail::at_own_address<Handler, Payload, Address> told{std::move(handler), address_};
                return detail::attach_handler<Payload>(*core_, told, options, where, whose, &at);
            } else {
                return detail::attach_handler<Payload>(*core_, handler, options, where, whose, &at);
            }
        });
    }
    detail::slot* attach_ops(const detail::handler_ops* ops, void* handler, stage place, std::source_location where,
                             detail::ownership whose) const {
        return detail::attach_at(address_, [&](const detail::address_request& at) {
            return detail::attach(*core_, {ops, handler, place, where, whose, &at});
        });
    }

    detail::channel_core* core_;
    Address address_;
};

WIRED_COURIER_NAMESPACE_END
