// A right to send to one channel from any thread.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/detail/base/in_use.hpp>
#include <courier/detail/later/inbox_core.hpp>
#include <courier/inbox.hpp>
#include <courier/poster.hpp>

#include <cstddef>
#include <cstdint>
#include <new>
#include <optional>
#include <source_location>
#include <type_traits>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN

namespace detail {

/// What both kinds of inlet are made of: a counted use of a route.
class route_user {
public:
    route_user() noexcept = default;
    route_user(shared<inbox_core> core, inbox_route& route) noexcept : core_(std::move(core)), route_(&route) {
        route_->inlets.fetch_add(1, std::memory_order_relaxed);
    }
    route_user(const route_user& other) noexcept : core_(other.core_), route_(other.route_) {
        if (core_ != nullptr) {
            route_->inlets.fetch_add(1, std::memory_order_relaxed);
        }
    }
    route_user(route_user&& other) noexcept
        : core_(std::move(other.core_)), route_(other.route_), sent_(std::exchange(other.sent_, 0)) {}
    route_user& operator=(route_user other) noexcept {
        std::swap(core_, other.core_);
        std::swap(route_, other.route_);
        std::swap(sent_, other.sent_);
        return *this;
    }
    ~route_user() {
        if (core_ != nullptr) {
            route_->sent.fetch_add(sent_, std::memory_order_relaxed);
            if (route_->inlets.fetch_sub(1, std::memory_order_acq_rel) == 1) { // from here on it may be gone
                core_->routes_left.store(true, std::memory_order_release);
            }
        }
    }

    [[nodiscard]] bool open() const noexcept {
        return core_ != nullptr && !core_->closed.load(std::memory_order_relaxed);
    }

    /// The payload is made in its place in this thread's log; if that throws,
    /// nothing was sent.
    template <class Item>
    bool send(Item&& item) const {
        if constexpr (is_quiet<Item>) {
            return send_now(std::forward<Item>(item));
        } else {
            const route_user own(*this); // its move may end the sender
            return own.send_now(std::forward<Item>(item));
        }
    }

private:
    template <class Item>
    bool send_now(Item&& item) const {
        constexpr std::size_t bytes = place_in_log<Item>::bytes;
        if (core_ == nullptr) {
            return false;
        }
        inbox_core& core = *core_;
        sending_log* log = log_here(core.number);
        if (log == nullptr || !log->takes(bytes) || core.closed.load(std::memory_order_relaxed)) [[unlikely]] {
            log = make_way(core_, bytes);
            if (log == nullptr) {
                return false;
            }
        }
        const std::uint64_t cause = sending_cause();
        std::byte* const at = log->place_for<Item>(cause);
        if constexpr (std::is_trivially_copyable_v<Item>) {
            ::new (at) Item(std::forward<Item>(item));
        } else {
            const sending_log::making now(*log);
            ::new (at) Item(std::forward<Item>(item));
        }
        ++sent_;
        log->hand_over(*route_, cause, at + place_in_log<Item>::size, core.wakes);
        if (core.wakes) [[unlikely]] {
            wake_owner(core);
        }
        return true;
    }

    shared<inbox_core> core_;
    inbox_route* route_ = nullptr;
    mutable std::uint64_t sent_ = 0; ///< one object is not for two threads at a time
};

template <class Item, class Backlog>
route_user make_route(const shared<inbox_core>& core, backlog_user backlog) {
    auto route = make_owned<inbox_route>();
    route->arrive = &reading_of<Item, Backlog>::arrive;
    route->discard = &reading_of<Item, Backlog>::discard;
    route->backlog = std::move(backlog);
    return {core, enter_route(*core, std::move(route))};
}

} // namespace detail

/// Sends payloads to one channel through an inbox, from any thread. Made on
/// the thread of the inbox; copies may be made, used and destroyed on any
/// thread, but one object is not for two threads at a time.
template <class Payload>
class inlet {
public:
    using payload_type = Payload;

    /// Not connected.
    inlet() noexcept = default;

    /// `target` is a poster, whose policy then holds for what arrives, or a
    /// channel.
    explicit inlet(inbox& to, const poster<Payload>& target)
        : route_(detail::make_route<Payload, backlog>(to.core_, detail::access::backlog(target))) {}
    /// Made on the thread of `to`. Payloads are published on `target` in a round of its outbox. Either may
    /// end first.
    explicit inlet(inbox& to, channel<Payload>& target, std::source_location where = std::source_location::current())
        : route_(detail::make_route<Payload, backlog>(to.core_, to.own_backlog_to<backlog, Payload>(target, where))) {}

    /// False when the payload is turned away, since the limit is reached or the
    /// inbox has ended; then it is destroyed here. What memory that is full or
    /// the payload's own move throws comes out, and nothing has been sent.
    bool send(Payload payload) const { return route_.send(std::move(payload)); }

    /// Whether the inbox is there.
    [[nodiscard]] bool connected() const noexcept { return route_.open(); }

private:
    using backlog = detail::plain_backlog<Payload>;
    detail::route_user route_;
};

WIRED_COURIER_NAMESPACE_END
