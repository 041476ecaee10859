// Takes payloads from any thread.
// SPDX-License-Identifier: MIT
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
/// No payload is lost: one that was sent before `take_in()` was called
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
    /// Payloads on their way are destroyed without being delivered.
    ~inbox() {
        const detail::held<detail::outbox_core> box = box_; // a payload's destructor may end much
        const detail::shared<detail::inbox_core> kept = core_;
        detail::close_inbox(*kept);
    }

    /// The name it was made with. A view that is good while it lives.
    [[nodiscard]] std::string_view name() const noexcept { return core_->name; }

    /// Posts arrived payloads to the outbox, and returns how many there were.
    /// They are counted once, when it begins, so that no flood can
    /// hold it up. With a budget it takes from each thread in turn, 64 at a time,
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

    template <class Backlog, class Payload, class Target>
    detail::backlog_user own_backlog_to(Target& target, std::source_location where) {
        return box_->closed ? detail::backlog_user{}
                            : detail::backlog_user(detail::backlog_for<Backlog, Payload>(*box_, target, where));
    }

    detail::shared<detail::inbox_core> core_;
    detail::held<detail::outbox_core> box_; ///< whatever becomes of the outbox
};

WIRED_COURIER_NAMESPACE_END
