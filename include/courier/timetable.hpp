// Payloads that are posted when their time has come.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/addressed_poster.hpp>
#include <courier/config.hpp>
#include <courier/detail/base/in_use.hpp>
#include <courier/detail/later/timed_call.hpp>
#include <courier/detail/later/timetable_core.hpp>
#include <courier/game_time.hpp>
#include <courier/outbox.hpp>
#include <courier/poster.hpp>
#include <courier/subscriber.hpp>
#include <courier/timer.hpp>
#include <courier/timer_options.hpp>

#include <concepts>
#include <cstddef>
#include <cstdint>
#include <source_location>
#include <string_view>
#include <type_traits>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN

/// Posts payloads through an outbox after a delay, at a time, or at every
/// interval. Time is the game's: it passes when `advance()` says so, so that a
/// run is repeatable, and a paused game has paused deliveries.
///
///     courier::timetable clock{later, "game time"};
///     strike_ = clock.after(2s, thunder, {.loudness = 3});    // ends with its owner
///     gulls_ = clock.every(500ms, cry, {});
///     clock.advance(16ms);                                    // due payloads are posted
///     later.deliver();
///
/// Each payload has an owner: the `timer` that is returned, or the timetable once that was
/// released. Functions that are called in their time belong to a subscriber
/// (`subscriber::after()`). The order of arguments is clock, time, target, content.
///
/// Payloads that fall due in one step are posted in the order of their times, and for
/// equal times in the order of the calls that asked for them. A target is a poster,
/// or a channel; the payload waits in the outbox from then on. One that is due
/// at once, or in the past, is posted at the next `advance()`.
///
/// A timer that begins, comes or ends costs a few steps, however many wait: times
/// are kept in buckets by the highest bit in which they differ from now, and
/// move to lower ones as it approaches (after Ahuja, Mehlhorn, Orlin and
/// Tarjan, "Faster algorithms for the shortest path problem", 1990). Room is reused.
///
/// Belongs to the thread of its outbox, which may end first; nothing is posted
/// then. A payload's move or destructor may end it. Can be neither copied nor moved.
class timetable {
public:
    /// `name` is for messages and findings and is copied.
    explicit timetable(outbox& through, std::string_view name = {})
        : core_(detail::open_timetable(name)), box_(detail::core_of(through)) {}
    timetable(const timetable&) = delete;
    timetable& operator=(const timetable&) = delete;
    /// Waiting payloads are destroyed.
    ~timetable() {
        const auto box = box_;
        detail::close_timetable(*core_); // may be the end of much
    }

    /// The name it was made with. A view that is good while it lives.
    [[nodiscard]] std::string_view name() const noexcept { return core_->name; }
    /// How much time has passed since it was made.
    [[nodiscard]] game_time now() const noexcept { return game_time(core_->now); }

    /// Posts `payload` once, `delay` from now; `courier::never` is for ever
    /// away. When memory is full it throws, and nothing waits.
    template <class Target>
    timer after(time_span delay, Target& target, typename Target::payload_type payload,
                std::source_location where = std::source_location::current()) {
        return put_in(target, detail::later_by(now(), delay), {}, where, to_all<Target>(payload, where));
    }

    /// Posts `payload` once, at a time.
    template <class Target>
    timer at(time_span when, Target& target, typename Target::payload_type payload,
             std::source_location where = std::source_location::current()) {
        return put_in(target, when, {}, where, to_all<Target>(payload, where));
    }

    /// Posts a copy of `payload` at every `interval`, the first time one
    /// interval from now. An interval that is not above zero is refused
    /// (`fault_code::bad_interval`).
    template <class Target>
    timer every(time_span interval, Target& target, typename Target::payload_type payload, timer_options how = {},
                std::source_location where = std::source_location::current()) {
        return put_in_every(interval, target, how, where, to_all<Target>(payload, where));
    }

    /// As these, for one address of an addressed poster or channel.
    template <class Target>
    timer after_to(time_span delay, Target& target, const typename Target::address_type& to,
                   typename Target::payload_type payload,
                   std::source_location where = std::source_location::current()) {
        return put_in(target, detail::later_by(now(), delay), {}, where, to_one<Target>(to, payload, where));
    }
    /// To one address, at a time.
    template <class Target>
    timer at_to(time_span when, Target& target, const typename Target::address_type& to,
                typename Target::payload_type payload, std::source_location where = std::source_location::current()) {
        return put_in(target, when, {}, where, to_one<Target>(to, payload, where));
    }
    /// To one address, at every interval.
    template <class Target>
    timer every_to(time_span interval, Target& target, const typename Target::address_type& to,
                   typename Target::payload_type payload, timer_options how = {},
                   std::source_location where = std::source_location::current()) {
        return put_in_every(interval, target, how, where, to_one<Target>(to, payload, where));
    }

    /// Lets time pass, and posts payloads that fall due; returns how many.
    /// Does nothing while paused, nor for a step that is not above zero except
    /// post due payloads.
    std::size_t advance(time_span step) { return detail::advance(*core_, step.count()); }

    /// No time passes until `resume()`.
    void pause() noexcept { core_->paused = true; }
    /// Time passes again.
    void resume() noexcept { core_->paused = false; }
    /// Whether `pause()` holds.
    [[nodiscard]] bool paused() const noexcept { return core_->paused; }

    /// How many payloads wait, beats included.
    [[nodiscard]] std::size_t waiting() const noexcept { return core_->live; }

private:
    friend struct detail::access;

    /// `sleep` puts the payload into its backlog. Its move may end this timetable.
    template <class Target, class Sleep>
    timer put_in(Target& target, game_time when, detail::repetition again, std::source_location where, Sleep sleep) {
        if constexpr (checked_build) {
            detail::check_thread(*core_, "asked");
        }
        detail::timetable_core& core = *core_;
        const detail::held until_then(core);
        detail::backlog_user backlog = backlog_to(target, where);
        if (!backlog.open()) {
            return {};
        }
        if constexpr (checked_build) {
            detail::check_backlog(*backlog.get(), "given a time", where);
        }
        const std::uint32_t sleeper = sleep(*backlog.get());
        return {core, detail::add_timer(core, backlog, sleeper, when.count(), again)};
    }
    template <class Target, class Sleep>
    timer put_in_every(time_span interval, Target& target, timer_options how, std::source_location where, Sleep sleep) {
        static_assert(std::is_copy_constructible_v<typename Target::payload_type>,
                      "courier: a payload that comes at every interval is copied each time, so it must be copyable");
        return detail::repeats(interval.count(), where)
                   ? put_in(target, detail::later_by(now(), interval), {interval.count(), how.missed}, where, sleep)
                   : timer();
    }

    template <class Payload>
    static detail::backlog_user backlog_to(const poster<Payload>& target, std::source_location) {
        return detail::access::backlog(target);
    }
    template <class Payload, class Address>
    static detail::backlog_user backlog_to(const addressed_poster<Payload, Address>& target, std::source_location) {
        return detail::access::backlog(target);
    }
    template <class Payload>
    detail::backlog_user backlog_to(channel<Payload>& target, std::source_location where) {
        return own_backlog_to<detail::plain_backlog<Payload>, Payload>(target, where);
    }
    template <class Payload, class Address>
    detail::backlog_user backlog_to(addressed_channel<Payload, Address>& target, std::source_location where) {
        return own_backlog_to<detail::addressed_backlog<Payload, Address>, Payload>(target, where);
    }
    template <class Backlog, class Payload, class Target>
    detail::backlog_user own_backlog_to(Target& target, std::source_location where) {
        return box_->closed ? detail::backlog_user{}
                            : detail::backlog_user(detail::backlog_for<Backlog, Payload>(*box_, target, where));
    }

    template <class Target>
    using payload_of = typename Target::payload_type;
    template <class Target>
    using addressed_backlog_of = detail::addressed_backlog<payload_of<Target>, typename Target::address_type>;

    // These put a payload to sleep in its backlog.
    template <class Target>
    static auto to_all(payload_of<Target>& payload, std::source_location where) {
        return [&payload, where](detail::backlog_base& backlog) {
            if constexpr (requires { typename Target::address_type; }) {
                return static_cast<addressed_backlog_of<Target>&>(backlog).sleep({std::nullopt, std::move(payload)},
                                                                                 where);
            } else {
                return static_cast<detail::plain_backlog<payload_of<Target>>&>(backlog).sleep(std::move(payload),
                                                                                              where);
            }
        };
    }
    template <class Target>
    static auto to_one(const typename Target::address_type& to, payload_of<Target>& payload,
                       std::source_location where) {
        return [&to, &payload, where](detail::backlog_base& backlog) {
            return static_cast<addressed_backlog_of<Target>&>(backlog).sleep({to, std::move(payload)}, where);
        };
    }

    detail::timetable_core* core_;
    detail::held<detail::outbox_core> box_; ///< whatever becomes of the outbox
};

template <class Function>
subscription_key subscriber::call_later(timetable& clock, game_time delay, detail::repetition again,
                                        Function&& function, std::source_location where) {
    if constexpr (checked_build) {
        detail::check_thread(detail::access::hours(clock), "asked");
    }
    const detail::held until_then(party_);
    const detail::held time(detail::access::hours(clock)); // the function's move may end it
    const detail::held box(detail::access::box_of(clock));
    detail::timetable_core& core = detail::access::hours(clock);
    detail::outbox_core& through = detail::access::box_of(clock);
    constexpr bool fits = std::is_invocable_v<std::decay_t<Function>&>;
    static_assert(fits, "courier: a function that is called in its time takes no arguments; capture them");
    if constexpr (fits) {
        return subscription_key{detail::anchor_timed_call(detail::make_timed_call(std::forward<Function>(function)),
                                                          core, through, delay.count(), again, where, party_)};
    } else {
        return {};
    }
}

template <class Function>
subscription_key subscriber::after(timetable& clock, time_span delay, Function&& function, std::source_location where) {
    return call_later(clock, delay, {}, std::forward<Function>(function), where);
}

template <class Function>
subscription_key subscriber::at(timetable& clock, time_span when, Function&& function, std::source_location where) {
    return call_later(clock, game_time(when) - clock.now(), {}, std::forward<Function>(function), where);
}

template <class Function>
subscription_key subscriber::every(timetable& clock, time_span interval, Function&& function, timer_options how,
                                   std::source_location where) {
    return detail::repeats(interval.count(), where)
               ? call_later(clock, interval, {interval.count(), how.missed}, std::forward<Function>(function), where)
               : subscription_key{};
}

WIRED_COURIER_NAMESPACE_END
