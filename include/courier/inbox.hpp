// Takes payloads from any thread.
#pragma once

#include <courier/budget.hpp>
#include <courier/config.hpp>
#include <courier/detail/base/in_use.hpp>
#include <courier/detail/later/inbox_core.hpp>
#include <courier/outbox.hpp>
#include <courier/poster.hpp>

#include <cstddef>
#include <cstdint>
#include <functional>
#include <new>
#include <optional>
#include <source_location>
#include <string_view>
#include <type_traits>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN

/// How an inbox takes payloads, written as `{.limit = 1000}`.
struct inbox_options {
    /// How many may be on their way; more are turned away, and counted. Each
    /// sending thread sets a few aside for itself (at most 256, and at most an
    /// eighth of the limit for all of them together), so that another may be
    /// turned away that much earlier. With
    /// `courier::unbounded` memory is the limit.
    std::size_t limit = 65536;

    /// Called when something comes while the owner has found the inbox empty,
    /// or has not looked yet, so that it can wake up: once until the owner has
    /// looked again. By a sending thread, or by `take_in()` when that leaves
    /// something behind; so it must be safe to call from any thread. What it
    /// throws is reported as `fault_code::failure_lost`.
    std::function<void()> wake = {};
};

/// Takes payloads from any thread and passes them to the outbox of its owner,
/// who delivers them on its own thread.
///
///     courier::outbox later{"frame"};                       // all three on the main thread
///     courier::inbox arrivals{later, "arrivals"};
///     courier::inlet<Flashed> flashed{arrivals, weather_flashed};
///     std::thread weather([flashed] { flashed.send({.distance = 3}); });
///     ...
///     arrivals.take_in();                                   // on the main thread, once a frame
///     later.deliver();
///
/// What one thread sends arrives in the order in which it sent it, whichever
/// of its inlets it used; nothing is said of the order between threads.
/// Nothing that was taken is lost: what was sent before `take_in()` was called
/// arrives with it, as far as its budget goes, or with one of the next. While
/// `inbox_options::limit` payloads are on their way, more are turned away: `send()`
/// returns false, `turned_away()` counts them, and the next `take_in()` raises
/// `fault_code::inbox_full` when it begins. Once the inbox has held as many,
/// neither sending nor taking in allocates. A thread that ends leaves nothing
/// behind but what it sent.
///
/// Inlets may be used from any thread and may outlive the inbox; once it has
/// ended, `send()` returns false. Everything else belongs to the owner's
/// thread. Ending waits for nobody. Can be neither copied nor moved.
class inbox {
public:
    /// `name` is for messages and reports and is copied.
    explicit inbox(outbox& into, std::string_view name = {}, inbox_options options = {})
        : core_(detail::open_inbox(name, options.limit, std::move(options.wake))), box_(detail::access::outbox(into)) {}
    inbox(const inbox&) = delete;
    inbox& operator=(const inbox&) = delete;
    /// What is on its way is destroyed without being delivered.
    ~inbox() {
        const detail::held<detail::outbox_core> box = box_; // what is destroyed may be the end of much
        const detail::shared<detail::inbox_core> kept = core_;
        detail::close_inbox(*kept);
    }

    [[nodiscard]] std::string_view name() const noexcept { return core_->name; }

    /// Posts what has arrived to the outbox, and returns how many that were.
    /// What had arrived is measured once, when it begins, so that no flood can
    /// keep it. With a budget it takes from each thread in turn, 64 at a time,
    /// and asks `budget::spent` in between; the rest waits. A policy that throws
    /// (`posting_options::combine`) keeps nothing else from being taken in; the first
    /// exception is thrown at the end. Returns 0 when it is called by code that
    /// it runs itself, which may also end the inbox.
    std::size_t take_in(const budget& most = {}) {
        if constexpr (checked_build) {
            detail::check_thread(*box_, "taken in to", std::source_location{});
        }
        const detail::shared<detail::inbox_core> kept = core_;
        return detail::take_in(*kept, most);
    }

    /// How many are on their way. Others may be sending more.
    [[nodiscard]] std::size_t waiting() const noexcept { return detail::waiting_in(*core_); }

    /// How many were turned away so far since the limit was reached.
    [[nodiscard]] std::uint64_t turned_away() const noexcept {
        return core_->turned_away.load(std::memory_order_relaxed);
    }

private:
    template <class>
    friend class inlet;
    template <class, class>
    friend class addressed_inlet;
    friend struct detail::access;

    template <class Lane, class Payload, class Target>
    detail::backlog_user own_backlog_to(Target& target, std::source_location where) {
        return box_->closed ? detail::backlog_user{}
                            : detail::backlog_user(detail::backlog_for<Lane, Payload>(*box_, target, where));
    }

    detail::shared<detail::inbox_core> core_;
    detail::held<detail::outbox_core> box_; ///< whatever becomes of the outbox
};

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
            const route_user own(*this); // its move may end whoever sends
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

template <class Item, class Lane>
route_user make_route(const shared<inbox_core>& core, backlog_user backlog) {
    auto route = make_owned<inbox_route>();
    route->arrive = &reading_of<Item, Lane>::arrive;
    route->discard = &reading_of<Item, Lane>::discard;
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

/// The same for an addressed channel.
template <class Payload, class Address = typename Payload::address>
class addressed_inlet {
public:
    using payload_type = Payload;

    addressed_inlet() noexcept = default;
    explicit addressed_inlet(inbox& to, const addressed_poster<Payload, Address>& target)
        : route_(detail::make_route<item, backlog>(to.core_, detail::access::backlog(target))) {}
    explicit addressed_inlet(inbox& to, addressed_channel<Payload, Address>& target,
                             std::source_location where = std::source_location::current())
        : route_(detail::make_route<item, backlog>(to.core_, to.own_backlog_to<backlog, Payload>(target, where))) {}

    /// For everyone.
    bool send(Payload payload) const { return route_.send(item{std::nullopt, std::move(payload)}); }

    /// For one address.
    bool send_to(const Address& to, Payload payload) const { return route_.send(item{to, std::move(payload)}); }

    [[nodiscard]] bool connected() const noexcept { return route_.open(); }

private:
    using backlog = detail::addressed_backlog<Payload, Address>;
    using item = detail::addressed_item<Payload, Address>;
    detail::route_user route_;
};

WIRED_COURIER_NAMESPACE_END
