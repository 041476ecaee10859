// Payloads that are posted when their time has come.
#pragma once

#include <courier/addressed_poster.hpp>
#include <courier/beat.hpp>
#include <courier/config.hpp>
#include <courier/detail/base/in_use.hpp>
#include <courier/detail/later/timed_call.hpp>
#include <courier/detail/later/timetable_core.hpp>
#include <courier/game_time.hpp>
#include <courier/outbox.hpp>
#include <courier/poster.hpp>
#include <courier/subscriber.hpp>

#include <concepts>
#include <cstddef>
#include <cstdint>
#include <source_location>
#include <string_view>
#include <type_traits>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN

/// What happens to the beats that a long frame swallowed.
enum class missed_beats : std::uint8_t {
    each, ///< each is posted, in its place among everything else that fell due
    once, ///< one is posted for all of them; the next one is in time again
};

/// Stands for one payload that waits for its time. A plain value that owns
/// nothing; one that has come or was cancelled matches nothing.
class timer_key {
public:
    timer_key() noexcept = default;

private:
    friend class timetable;
    timer_key(std::uint32_t place, std::uint32_t stay) noexcept : place_(place), stay_(stay) {}
    std::uint32_t place_ = 0;
    std::uint32_t stay_ = 0;
};

/// Posts payloads through an outbox after a delay, at a time, or at every
/// interval. Time is the game's: it passes when `advance()` says so, so that a
/// run is repeatable, and a paused game has paused deliveries.
///
///     courier::timetable clock{later};
///     clock.after(2s, thunder, {.loudness = 3});
///     gulls_ = clock.every(500ms, cry, {});
///     clock.advance(16ms);                 // what is due is posted
///     later.deliver();
///
/// What falls due in one step is posted in the order of its time, and for
/// equal times in the order in which it was asked for. A target is a poster,
/// or a channel; the payload waits in the outbox from then on. One that is due
/// at once, or in the past, is posted at the next `advance()`.
///
/// Asking, coming and cancelling each cost a few steps, however many wait: times
/// are kept in buckets by the highest bit in which they differ from now, and
/// move to lower ones as it approaches (after Ahuja, Mehlhorn, Orlin and
/// Tarjan, "Faster algorithms for the shortest path problem", 1990). Room is reused.
///
/// Belongs to the thread of its outbox, which may end first; nothing is posted
/// then. May end in what it posts or destroys. Can be neither copied nor moved.
class timetable {
public:
    explicit timetable(outbox& through) : core_(detail::open_timetable()), box_(detail::core_of(through)) {}
    timetable(const timetable&) = delete;
    timetable& operator=(const timetable&) = delete;
    /// What waits is forgotten.
    ~timetable() {
        const auto box = box_;
        detail::close_timetable(*core_); // may be the end of much
    }

    [[nodiscard]] game_time now() const noexcept { return game_time(core_->now); }

    /// Posts `payload` once, `delay` from now; `courier::never` is for ever
    /// away. When memory is full it throws, and nothing has been asked for.
    template <class Target>
    timer_key after(time_span delay, Target& target, typename Target::payload_type payload,
                    std::source_location where = std::source_location::current()) {
        return put_in(target, detail::later_by(now(), delay), 0, false, where, [&](detail::backlog_base& backlog) {
            return put_to_sleep(target, backlog, std::move(payload), where);
        });
    }

    /// Posts `payload` once, at a time.
    template <class Target>
    timer_key at(time_span when, Target& target, typename Target::payload_type payload,
                 std::source_location where = std::source_location::current()) {
        return put_in(target, when, 0, false, where, [&](detail::backlog_base& backlog) {
            return put_to_sleep(target, backlog, std::move(payload), where);
        });
    }

    /// Posts to one address of an addressed poster or channel.
    template <class Target>
    timer_key after_to(time_span delay, Target& target, const typename Target::address_type& to,
                       typename Target::payload_type payload,
                       std::source_location where = std::source_location::current()) {
        using addressed = detail::addressed_backlog<typename Target::payload_type, typename Target::address_type>;
        return put_in(target, detail::later_by(now(), delay), 0, false, where, [&](detail::backlog_base& backlog) {
            return static_cast<addressed&>(backlog).sleep({to, std::move(payload)}, where);
        });
    }

    /// Posts a copy of `payload` at every `interval`, the first time one
    /// interval from now. An interval that is not above zero is refused
    /// (`fault_code::bad_interval`).
    template <class Target>
    beat every(time_span interval, Target& target, typename Target::payload_type payload,
               missed_beats missed = missed_beats::each, std::source_location where = std::source_location::current()) {
        static_assert(std::copy_constructible<typename Target::payload_type>,
                      "courier: what is posted again and again is copied each time, so its payload must be copyable");
        beat made;
        if (interval.count() <= 0) {
            detail::report_interval(interval.count(), where);
            return made;
        }
        detail::timetable_core& core = *core_;
        const timer_key timer = put_in(
            target, detail::later_by(now(), interval), interval.count(), missed == missed_beats::once, where,
            [&](detail::backlog_base& backlog) { return put_to_sleep(target, backlog, std::move(payload), where); });
        if (timer.stay_ != 0) {
            made.core_ = detail::held(core);
            made.place_ = timer.place_;
            made.stay_ = timer.stay_;
        }
        return made;
    }

    /// Takes a payload back before its time; false when it has come, or was
    /// taken back already.
    bool cancel(timer_key key) noexcept { return detail::cancel(*core_, key.place_, key.stay_); }

    /// Whether it still waits.
    [[nodiscard]] bool waits(timer_key key) const noexcept { return detail::is_waiting(*core_, key.place_, key.stay_); }

    /// Lets time pass, and posts what falls due; returns how much that was.
    /// Does nothing while paused, nor for a step that is not above zero except
    /// post what is due now.
    std::size_t advance(time_span step) { return detail::advance(*core_, step.count()); }

    /// No time passes until `resume()`.
    void pause() noexcept { core_->paused = true; }
    void resume() noexcept { core_->paused = false; }
    [[nodiscard]] bool paused() const noexcept { return core_->paused; }

    /// How many payloads wait, beats included.
    [[nodiscard]] std::size_t waiting() const noexcept { return core_->live; }

private:
    friend struct detail::access;

    /// `sleep` puts the payload into its backlog. Its move may end this timetable.
    template <class Target, class Sleep>
    timer_key put_in(Target& target, game_time when, std::int64_t interval, bool catches_up_once,
                     std::source_location where, Sleep sleep) {
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
        const auto made = detail::add_timer(core, backlog, sleeper, when.count(), interval, catches_up_once);
        return {made.place, made.stay};
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
    template <class Lane, class Payload, class Target>
    detail::backlog_user own_backlog_to(Target& target, std::source_location where) {
        return box_->closed ? detail::backlog_user{}
                            : detail::backlog_user(detail::backlog_for<Lane, Payload>(*box_, target, where));
    }

    template <class Target>
    static std::uint32_t put_to_sleep(const Target&, detail::backlog_base& backlog,
                                      typename Target::payload_type&& payload, std::source_location where) {
        using Payload = typename Target::payload_type;
        if constexpr (requires { typename Target::address_type; }) {
            using addressed = detail::addressed_backlog<Payload, typename Target::address_type>;
            return static_cast<addressed&>(backlog).sleep({std::nullopt, std::move(payload)}, where);
        } else {
            return static_cast<detail::plain_backlog<Payload>&>(backlog).sleep(std::move(payload), where);
        }
    }

    detail::timetable_core* core_;
    detail::held<detail::outbox_core> box_; ///< whatever becomes of the outbox
};

template <class Function>
subscription_key subscriber::call_later(timetable& clock, game_time delay, game_time interval, bool catches_up_once,
                                        Function&& function, std::source_location where) {
    if constexpr (checked_build) {
        detail::check_thread(detail::access::hours(clock), "asked");
    }
    const detail::held until_then(party_);
    const detail::held time(detail::access::hours(clock)); // the function's move may end it
    const detail::held box(detail::access::box_of(clock));
    detail::timetable_core& core = detail::access::hours(clock);
    detail::outbox_core& through = detail::access::box_of(clock);
    return subscription_key{detail::anchor_timed_call(detail::make_timed_call(std::forward<Function>(function)), core,
                                                      through, delay.count(), interval.count(), catches_up_once, where,
                                                      party_)};
}

template <class Function>
subscription_key subscriber::after(timetable& clock, time_span delay, Function&& function, std::source_location where) {
    return call_later(clock, delay, {}, false, std::forward<Function>(function), where);
}

template <class Function>
subscription_key subscriber::at(timetable& clock, time_span when, Function&& function, std::source_location where) {
    return call_later(clock, game_time(when) - clock.now(), {}, false, std::forward<Function>(function), where);
}

template <class Function>
subscription_key subscriber::every(timetable& clock, time_span interval, Function&& function, missed_beats missed,
                                   std::source_location where) {
    if (interval.count() <= 0) {
        detail::report_interval(interval.count(), where);
        return {};
    }
    return call_later(clock, interval, interval, missed == missed_beats::once, std::forward<Function>(function), where);
}

template <class Function>
subscription_key subscriber::every(timetable& clock, time_span interval, Function&& function,
                                   std::source_location where) {
    return every(clock, interval, std::forward<Function>(function), missed_beats::each, where);
}

WIRED_COURIER_NAMESPACE_END
