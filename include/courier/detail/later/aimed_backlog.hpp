// A backlog of payloads that all go to one address, or to one group.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/addressed_channel.hpp>
#include <courier/detail/base/in_use.hpp>
#include <courier/detail/delivery/publish_at.hpp>
#include <courier/detail/later/plain_backlog.hpp>

#include <concepts>
#include <cstddef>
#include <source_location>
#include <type_traits>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

template <class Address>
class aim_at_address {
public:
    explicit aim_at_address(const Address& to) : to_(to) {}
    template <class Payload>
    void publish(channel_core& on, const Payload& payload, std::source_location where) const {
        publish_at(on, to_, &payload, where);
    }
    [[nodiscard]] address_label label() const { return label_of(to_); }

private:
    Address to_;
};

/// Whoever is a member when the payload is delivered; nobody once the group has ended.
template <class Address>
class aim_at_group {
public:
    explicit aim_at_group(const group<Address>& to) : core_(access::kept_core(to)) {}
    template <class Payload>
    void publish(channel_core& on, const Payload& payload, std::source_location where) const {
        if (core_->owner != nullptr) {
            publish_to_group(on, *core_->owner, payload, where);
        }
    }
    [[nodiscard]] address_label label() const {
        return core_->owner != nullptr ? label_of_group(*core_->owner) : address_label{};
    }

private:
    held<group_core<Address>> core_;
};

/// What a poster for `To` is aimed at.
template <class To, class Address>
concept an_aim_of = std::same_as<To, group<Address>> || std::convertible_to<const To&, Address>;
template <class To, class Address>
using aim_for = std::conditional_t<std::same_as<To, group<Address>>, aim_at_group<Address>, aim_at_address<Address>>;

template <class Payload, class Aim>
class aimed_backlog final : public plain_backlog<Payload> {
public:
    aimed_backlog(outbox_core& through, channel_core& on, posting_options<Payload>&& how, Aim aim)
        : plain_backlog<Payload>(through, on, std::move(how)), aim_(std::move(aim)) {}

    std::size_t deliver(std::size_t most) override {
        std::size_t count = 0;
        for (; count < most && this->left() != 0; ++count) {
            const std::size_t place = this->advance(1);
            if (!this->target->closed) {
                this->publish_as_posted(
                    place, [&](std::source_location from) { aim_.publish(*this->target, this->round_[place], from); });
            }
        }
        return count;
    }

private:
    [[nodiscard]] address_label aimed_at() const override { return aim_.label(); }

    Aim aim_;
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
