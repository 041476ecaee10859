// Takes payloads from any thread.
#pragma once

#include <courier/config.hpp>
#include <courier/detail/inbox_core.hpp>
#include <courier/outbox.hpp>
#include <courier/poster.hpp>

#include <cstddef>
#include <cstdint>
#include <functional>
#include <memory>
#include <optional>
#include <source_location>
#include <string_view>
#include <type_traits>
#include <utility>

namespace courier::inline WIRED_COURIER_ABI {

/// How an inbox takes payloads, written as `{.most = 1000}`.
struct inbox_options {
    /// How many may be on their way; more are refused, and counted. 0 is no bound.
    std::size_t most = 0;

    /// Called by a sending thread when something comes while the owner has
    /// found the inbox empty, so that it can wake up; at most once until the
    /// owner has looked again. It must be safe to call from any thread.
    std::function<void()> wake = {};
};

/// Takes payloads from any thread and passes them to the outbox of its owner,
/// who delivers them on its own thread.
///
///     courier::outbox later{"frame"};                       // all three on the main thread
///     courier::inbox arrivals{later, "arrivals"};
///     courier::sender<Flashed> flashed{arrivals, weather_flashed};
///     std::thread weather([flashed] { flashed.send({.distance = 3}); });
///     ...
///     arrivals.take_in();                                   // on the main thread, once a frame
///     later.deliver();
///
/// What one thread sends arrives in the order in which it sent it; nothing is
/// said of the order between threads. Nothing is lost: what was sent before
/// `take_in()` was called arrives with it or, when others send faster than it
/// takes in, with one of the next. Once the inbox has held as
/// many, neither sending nor taking in allocates (payloads of more than 48
/// bytes, or whose move may throw, take an allocation each).
///
/// Senders may be used from any thread and may outlive the inbox; once it has
/// ended, `send()` returns false. Everything else belongs to the owner's
/// thread. Can be neither copied nor moved.
class inbox {
public:
    /// `name` is for messages and reports and is copied.
    explicit inbox(outbox& into, std::string_view name = {}, inbox_options options = {})
        : core_(detail::open_inbox(name, options.most, std::move(options.wake))), into_(into) {}
    inbox(const inbox&) = delete;
    inbox& operator=(const inbox&) = delete;
    /// What is on its way is destroyed without being delivered.
    ~inbox() { detail::close_inbox(*core_); }

    [[nodiscard]] std::string_view name() const noexcept { return detail::name_of(*core_); }

    /// Posts everything that has arrived to the outbox, and returns how many
    /// that were. What comes meanwhile may wait for the next time.
    std::size_t take_in() { return detail::take_in(*core_); }

    /// About how many are on their way.
    [[nodiscard]] std::size_t waiting() const noexcept { return detail::waiting_in(*core_); }

    /// How many were refused since the bound was reached.
    [[nodiscard]] std::uint64_t refused() const noexcept { return detail::refused_by(*core_); }

private:
    template <class>
    friend class sender;
    template <class, class>
    friend class addressed_sender;
    friend struct detail::access;

    std::shared_ptr<detail::inbox_core> core_;
    outbox& into_;
};

namespace detail {

/// What both kinds of sender are made of: a counted use of a route.
class route_user {
public:
    route_user() noexcept = default;
    route_user(std::shared_ptr<inbox_core> core, inbox_route& route) noexcept : core_(std::move(core)), route_(&route) {
        route_->senders.fetch_add(1, std::memory_order_relaxed);
    }
    route_user(const route_user& other) noexcept : core_(other.core_), route_(other.route_) {
        if (core_ != nullptr) {
            route_->senders.fetch_add(1, std::memory_order_relaxed);
        }
    }
    route_user(route_user&& other) noexcept : core_(std::move(other.core_)), route_(other.route_) {}
    route_user& operator=(route_user other) noexcept {
        std::swap(core_, other.core_);
        std::swap(route_, other.route_);
        return *this;
    }
    ~route_user() {
        if (core_ != nullptr) {
            route_->senders.fetch_sub(1, std::memory_order_release);
        }
    }

    [[nodiscard]] bool open() const noexcept { return core_ != nullptr && !is_closed(*core_); }

    template <class Item, class Lane>
    bool send(Item&& item) const {
        if (!open()) {
            return false;
        }
        message one;
        message_of<Item, Lane>::put(one, std::move(item));
        one.route = route_;
        one.cause = sending_cause();
        return detail::send(*core_, std::move(one));
    }

private:
    std::shared_ptr<inbox_core> core_;
    inbox_route* route_ = nullptr;
};

template <class Item, class Lane>
route_user make_route(const std::shared_ptr<inbox_core>& core, lane_user lane) {
    auto route = std::make_unique<inbox_route>();
    message_of<Item, Lane>::set_up(*route);
    route->lane = std::move(lane);
    return {core, enter_route(*core, std::move(route))};
}

} // namespace detail

/// Sends payloads to one channel through an inbox, from any thread. Made on
/// the thread of the inbox; copies may be made, used and destroyed on any
/// thread, but one object is not for two threads at a time.
template <class Payload>
class sender {
public:
    using payload_type = Payload;

    /// Not connected.
    sender() noexcept = default;

    /// `target` is a poster, whose policy then holds for what arrives, or a
    /// channel.
    explicit sender(inbox& to, const poster<Payload>& target)
        : route_(detail::make_route<Payload, lane>(to.core_, detail::access::lane(target))) {}
    explicit sender(inbox& to, channel<Payload>& target, std::source_location where = std::source_location::current())
        : route_(detail::make_route<Payload, lane>(
              to.core_, detail::lane_user(detail::access::implicit_lane<lane, Payload>(to.into_, target, where)))) {}

    /// False when the payload is refused, since the bound is reached or the
    /// inbox has ended; then it is destroyed here.
    bool send(Payload payload) const { return route_.template send<Payload, lane>(std::move(payload)); }

    /// Whether the inbox is there.
    [[nodiscard]] bool connected() const noexcept { return route_.open(); }

private:
    using lane = detail::plain_lane<Payload>;
    detail::route_user route_;
};

/// The same for an addressed channel.
template <class Payload, class Address = typename Payload::address>
class addressed_sender {
public:
    using payload_type = Payload;

    addressed_sender() noexcept = default;
    explicit addressed_sender(inbox& to, const addressed_poster<Payload, Address>& target)
        : route_(detail::make_route<item, lane>(to.core_, detail::access::lane(target))) {}
    explicit addressed_sender(inbox& to, addressed_channel<Payload, Address>& target,
                              std::source_location where = std::source_location::current())
        : route_(detail::make_route<item, lane>(
              to.core_, detail::lane_user(detail::access::implicit_lane<lane, Payload>(to.into_, target, where)))) {}

    /// For everyone.
    bool send(Payload payload) const { return route_.template send<item, lane>({std::nullopt, std::move(payload)}); }

    /// For one address.
    bool send_to(const Address& to, Payload payload) const {
        return route_.template send<item, lane>({to, std::move(payload)});
    }

    [[nodiscard]] bool connected() const noexcept { return route_.open(); }

private:
    using lane = detail::addressed_lane<Payload, Address>;
    using item = detail::addressed_item<Payload, Address>;
    detail::route_user route_;
};

} // namespace courier::inline WIRED_COURIER_ABI
