// Holds payloads until it is their turn.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/budget.hpp>
#include <courier/channel.hpp>
#include <courier/config.hpp>
#include <courier/detail/base/forward.hpp>
#include <courier/detail/base/owned.hpp>
#include <courier/detail/later/outbox_core.hpp>
#include <courier/poster.hpp>
#include <courier/posting_options.hpp>

#include <concepts>
#include <cstddef>
#include <cstdint>
#include <source_location>
#include <span>
#include <string>
#include <string_view>
#include <type_traits>
#include <utility>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN

/// In which order a round delivers.
enum class round_order : std::uint8_t {
    by_channel, ///< channel by channel, in the order in which the first payload of each was posted
    as_posted,  ///< as they were posted, whatever the channel
    by_address, ///< channel by channel, and on a channel with addresses those for one address side by side: numbers and
                ///< enums in their order, others in none. One for everyone stays between those before and after it
};

/// How an outbox delivers, written as `{.order = courier::round_order::as_posted}`.
struct outbox_options {
    /// Handlers that take spans get what was posted on their channel in a row. A payload that takes the place of one
    /// that waits (`posting_options::keep`) has its place in the order, too.
    round_order order = round_order::by_channel;
};

/// What one `deliver()` did.
struct round_report {
    std::size_t delivered = 0; ///< payloads
    std::size_t rounds = 0;    ///< that were finished
    std::size_t left = 0;      ///< payloads of the round that did not fit into the budget
    bool quiet = false;        ///< nothing waits any more
};

/// What an outbox did for one channel, in all.
struct outbox_line {
    std::string channel;
    std::size_t waiting;
    std::uint64_t delivered;
    std::uint64_t turned_away;
};

/// Takes payloads when they are posted and delivers them in rounds, at the
/// point of the frame that its owner chooses.
///
///     courier::outbox later{"after physics"};
///     later.post(bitten, {.barge = 3, .crates = 1});
///     later.deliver();
///
/// A round delivers the payloads that waited when it began; later ones go
/// into the next. Channels have their turns in the order in which the first
/// payload of each was posted, unless `outbox_options::order` says otherwise; within a channel payloads keep their
/// order. A channel's handlers that take spans get a round's payloads in one piece; of an addressed channel, those that
/// take spans of `addressed_payload` do.
///
/// Payloads are moved in and owned until they are delivered; they need not be
/// copyable. Room is reused: once the outbox has held as much, neither posting
/// nor delivering allocates. How payloads of one channel wait (all, the latest,
/// one per address, combined, bounded) is said by a `poster`.
///
/// A handler that throws keeps nothing from being delivered; the first
/// exception is thrown when the round is over.
///
/// Belongs to one thread, that of its channels. Every member may be called
/// from a handler, but `deliver()` does nothing there while this outbox
/// delivers. A handler may destroy the outbox, which ends the round. Can be
/// neither copied nor moved.
class outbox {
public:
    /// `name` is for messages and reports and is copied.
    explicit outbox(std::string_view name = {}, outbox_options options = {})
        : core_(detail::open_outbox(name, options.order == round_order::as_posted,
                                    options.order == round_order::by_address)) {}
    outbox(const outbox&) = delete;
    outbox& operator=(const outbox&) = delete;
    /// What waits is destroyed without being delivered.
    ~outbox() { detail::close_outbox(*core_); }

    /// The name it was made with. A view that is good while it lives.
    [[nodiscard]] std::string_view name() const noexcept { return core_->name; }

    /// Posts a payload for all; looks the channel up each time, which a
    /// `poster` does once. False when the channel is gone.
    template <class Payload>
    bool post(channel<Payload>& on, std::type_identity_t<Payload> payload,
              std::source_location where = std::source_location::current()) {
        auto& backlog = detail::backlog_for<detail::plain_backlog<Payload>, Payload>(*core_, on, where);
        return backlog.post(std::move(payload));
    }
    /// On an addressed channel: to everyone.
    template <class Payload, class Address>
    bool post(addressed_channel<Payload, Address>& on, std::type_identity_t<Payload> payload,
              std::source_location where = std::source_location::current()) {
        using backlog = detail::addressed_backlog<Payload, Address>;
        return detail::backlog_for<backlog, Payload>(*core_, on, where).post(std::move(payload));
    }

    /// Posts a copy of each, in their order; how many were taken. If the copy of one throws, those before it wait.
    template <class Payload>
    std::size_t post_all(channel<Payload>& on, std::span<const std::type_identity_t<Payload>> all,
                         std::source_location where = std::source_location::current()) {
        return detail::backlog_for<detail::plain_backlog<Payload>, Payload>(*core_, on, where).post_all(all);
    }
    /// On an addressed channel: each for its address, or for everyone if it has none.
    template <class Payload, class Address>
    std::size_t post_all(addressed_channel<Payload, Address>& on,
                         std::span<const std::type_identity_t<addressed_payload<Payload, Address>>> all,
                         std::source_location where = std::source_location::current()) {
        using backlog = detail::addressed_backlog<Payload, Address>;
        return detail::backlog_for<backlog, Payload>(*core_, on, where).post_all(all);
    }

    /// Posts a payload for one address.
    template <class Payload, class Address>
    bool post_to(addressed_channel<Payload, Address>& on, const std::type_identity_t<Address>& to,
                 std::type_identity_t<Payload> payload, std::source_location where = std::source_location::current()) {
        using backlog = detail::addressed_backlog<Payload, Address>;
        return detail::backlog_for<backlog, Payload>(*core_, on, where).post_to(to, std::move(payload));
    }

    /// For each address that is a member of `to` now, a copy; returns how many were taken.
    template <class Payload, class Address, std::same_as<group<Address>> Group>
    std::size_t post_to(addressed_channel<Payload, Address>& on, const Group& to,
                        const std::type_identity_t<Payload>& payload,
                        std::source_location where = std::source_location::current()) {
        return detail::count_taken(to, [&](const Address& member) { return post_to(on, member, payload, where); });
    }

    /// Delivers one round, or as much of it as the budget allows; the rest
    /// comes first the next time.
    round_report deliver(const budget& most = {});

    /// Delivers rounds until nothing waits, `rounds` at most; if something
    /// still does, raises `fault_code::not_quiet` with the channels that keep
    /// it busy.
    round_report deliver_until_quiet(std::size_t rounds = 16);

    /// How many payloads wait, the rest of a round included.
    [[nodiscard]] std::size_t waiting() const noexcept;

    /// How many payloads were turned away or dropped so far.
    [[nodiscard]] std::uint64_t turned_away() const noexcept;

    /// Channel by channel, in the order in which they were first posted on.
    [[nodiscard]] std::vector<outbox_line> list() const;

private:
    friend struct detail::access;

    detail::outbox_core* core_;
};

WIRED_COURIER_NAMESPACE_END
