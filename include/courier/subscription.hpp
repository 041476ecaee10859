// The owned attachment of a handler to a channel.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/detail/base/in_use.hpp>
#include <courier/detail/base/refusals.hpp>
#include <courier/detail/delivery/channel_core.hpp>

#include <source_location>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN

/// Owns one handler's attachment to a channel: destroying it unsubscribes.
/// Movable, one pointer in size. The channel may die first; the subscription
/// then is no longer live. All members must be called on the channel's
/// thread; they may be called from any handler, this subscription's included.
class [[nodiscard(WIRED_COURIER_DROPPED)]] subscription {
public:
    /// Not attached to anything.
    subscription() noexcept = default;

    /// Takes over what the other one has, which then has nothing.
    subscription(subscription&& other) noexcept { take(other); }
    /// Takes over what the other one has, which then has nothing.
    subscription& operator=(subscription&& other) noexcept {
        detail::replace_handle(*this, std::move(other));
        return *this;
    }
    subscription(const subscription&) = delete; // courier: moved only: std::move() it, or hold it by std::shared_ptr
    subscription& operator=(const subscription&) = delete;
    ~subscription() { end(); }

    /// Unsubscribes; from then on the handler is not called, not even later in
    /// a publish that is under way. The handler's captures are destroyed at
    /// once, or when the publish under way has ended. Does nothing when not
    /// live.
    void end() noexcept {
        if (slot_ != nullptr) {
            detail::detach(*slot_);
        }
    }

    /// Whether the handler is attached; also while paused.
    [[nodiscard]] bool live() const noexcept { return slot_ != nullptr; }
    /// As `live()`.
    explicit operator bool() const noexcept { return live(); }

    /// Stops serving the handler, at once, without giving up its place in the
    /// order. Payloads published meanwhile are missed.
    void pause() noexcept {
        if (slot_ != nullptr) {
            detail::block(*slot_, detail::block_paused);
        }
    }

    /// Serves the handler again, at once.
    void resume() noexcept {
        if (slot_ != nullptr) {
            detail::unblock(*slot_, detail::block_paused);
        }
    }

    /// Whether `pause()` holds.
    [[nodiscard]] bool paused() const noexcept {
        return slot_ != nullptr && (slot_->blocked & detail::block_paused) != 0;
    }

    /// Where the subscription was made; an empty location when not live.
    [[nodiscard]] std::source_location where() const noexcept {
        return slot_ != nullptr ? slot_->where : std::source_location{};
    }

private:
    friend struct detail::access;

    explicit subscription(detail::slot* s) noexcept {
        if (s != nullptr) {
            detail::link(*s, slot_);
        }
    }

    void take(subscription& other) noexcept {
        slot_ = std::exchange(other.slot_, nullptr);
        if (slot_ != nullptr) {
            slot_->back = &slot_;
        }
    }

    detail::slot* slot_ = nullptr; ///< cleared by the library when the subscription ends
};

WIRED_COURIER_NAMESPACE_END
