// A named right to publish on one channel.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/channel.hpp>
#include <courier/config.hpp>
#include <courier/detail/base/in_use.hpp>

#include <concepts>
#include <source_location>
#include <span>
#include <string>
#include <string_view>
#include <type_traits>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN

/// Lets a system publish on a channel that another one owns. Made from the
/// channel itself, never from a const one. Copyable; the channel may die
/// first, publishing then does nothing and the receipt says `closed()`.
/// Belongs to the channel's thread, as the channel does.
template <class Payload>
class publisher {
public:
    using payload_type = Payload;

    /// Not connected: publishing does nothing and the receipt says `closed()`.
    publisher() noexcept : core_(&detail::nowhere()) {}

    /// `name` says who publishes, for messages and reports, and is copied.
    explicit publisher(channel<Payload>& target, std::string_view name = {})
        : core_(target.core_), kept_(*core_), name_(name) {}

    /// Does not compile; the message says what to write instead.
    template <class Never = void>
    explicit publisher(const channel<Payload>&, std::string_view = {}) {
        static_assert(!std::is_void_v<Never>, "courier: a const channel can be subscribed to only; make the publisher "
                                              "where the channel itself is at hand");
    }

    /// Does not compile; the message says what to write instead.
    template <class Other>
        requires(!std::is_same_v<Other, Payload>)
    explicit publisher(const channel<Other>&, std::string_view = {}) {
        static_assert(detail::always_false<Other>, "courier: this channel carries another payload than the publisher");
    }

    /// A right of the same kind.
    publisher(const publisher& other) = default;
    /// Takes over what the other one has, which then has nothing.
    publisher(publisher&& other) noexcept
        : core_(std::exchange(other.core_, &detail::nowhere())), kept_(std::move(other.kept_)),
          name_(std::move(other.name_)) {}
    /// Takes over what the other one has, which then has nothing.
    publisher& operator=(publisher other) noexcept {
        std::swap(core_, other.core_);
        std::swap(kept_, other.kept_);
        std::swap(name_, other.name_);
        return *this;
    }
    ~publisher() = default;

    /// As `channel::publish()`.
    receipt publish(const Payload& payload, std::source_location where = std::source_location::current()) const {
        if constexpr (checked_build) {
            if (!core_->closed) {
                detail::check_use(*core_, "published on", where);
            }
        }
        if (is_noted_name()) [[unlikely]] {
            return as_named([&](const std::string* name) {
                return detail::deliver_as(*core_, &payload, where, {name, {}});
            });
        }
        return detail::publish(*core_, &payload, where); // which knows when the channel is gone
    }

    /// Publishes an empty payload.
    receipt publish(std::source_location where = std::source_location::current()) const
        requires std::is_empty_v<Payload>
    {
        return publish(Payload{}, where);
    }

    /// As `channel::publish_all()`.
    receipt publish_all(std::span<const Payload> payloads,
                        std::source_location where = std::source_location::current()) const {
        if (!connected()) {
            return detail::receipts::made(0, detail::receipt_closed);
        }
        if constexpr (checked_build) {
            detail::check_use(*core_, "published on", where);
        }
        return as_named([&](const std::string* name) {
            return detail::publish_all(*core_, payloads.data(), payloads.size(), sizeof(Payload), where, nullptr,
                                       {name, {}});
        });
    }

    /// Does not compile; the message says what to write instead.
    template <class Other>
        requires(!std::is_convertible_v<Other, const Payload&> && !std::is_same_v<Other, std::source_location>)
    receipt publish(const Other&) const {
        static_assert(detail::always_false<Other>, "courier: this publisher carries another payload type");
        return {};
    }

    /// Does not compile; the message says what to write instead.
    template <class Never = void>
    receipt publish() const
        requires(!std::is_empty_v<Payload>)
    {
        static_assert(!std::is_void_v<Never>, "courier: this channel's payload has fields; publish it with its values");
        return {};
    }

    /// The name it was made with. A view that is good while it lives.
    [[nodiscard]] std::string_view name() const noexcept { return name_; }

    /// Whether there is a channel at the other end.
    [[nodiscard]] bool connected() const noexcept { return !core_->closed; }

protected:
    /// Whether a ledger wants to know the name.
    [[nodiscard]] bool is_noted_name() const noexcept {
        return ledger_built_in && (core_->work & detail::work_noted) != 0 && !name_.empty();
    }
    /// Publishes under the name, null when nobody wants to know it; a copy, since
    /// a handler may destroy this.
    template <class Publish>
    receipt as_named(Publish what) const {
        if (!is_noted_name()) {
            return what(nullptr);
        }
        const std::string own = name_;
        return what(&own);
    }

    detail::channel_core* core_; ///< never null, so that publishing need not look

private:
    friend struct detail::access;

    detail::held<detail::channel_core> kept_; ///< the same; refers to none while not connected
    std::string name_;
};

WIRED_COURIER_NAMESPACE_END
