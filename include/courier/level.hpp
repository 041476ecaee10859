// A part of the game that begins and ends as one, such as the reef or the harbour.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/detail/base/in_use.hpp>
#include <courier/detail/base/owned.hpp>
#include <courier/detail/delivery/followers.hpp>
#include <courier/hub.hpp>
#include <courier/subscriber.hpp>

#include <concepts>
#include <cstdint>
#include <functional>
#include <source_location>
#include <string_view>
#include <type_traits>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN

class level;

namespace detail {

/// Something that a level owns.
class level_part {
public:
    level_part() = default;
    level_part(const level_part&) = delete;
    level_part& operator=(const level_part&) = delete;
    virtual ~level_part() = default;
    virtual void pause() {}
    virtual void resume() {}
};

template <class T>
class level_part_of final : public level_part {
public:
    template <class... Parameters>
    explicit level_part_of(Parameters&&... parameters) : it(std::forward<Parameters>(parameters)...) {}

    void pause() override {
        if constexpr (std::is_same_v<T, level>) {
            sleeps_ = it.awake();
            it.sleep();
        } else if constexpr (can_pause) {
            sleeps_ = !it.paused();
            if (sleeps_) {
                it.pause();
            }
        }
    }
    void resume() override {
        if (!std::exchange(sleeps_, false)) {
            return; // it was asleep already, and is not woken with the rest
        }
        if constexpr (std::is_same_v<T, level>) {
            it.wake();
        } else if constexpr (can_pause) {
            it.resume();
        }
    }

    T it;

private:
    static constexpr bool can_pause = requires(T& that) {
        that.pause();
        that.resume();
        { that.paused() } -> std::convertible_to<bool>;
    };
    bool sleeps_ = false; ///< with the level
};

/// From one beginning of a level to its end.
struct level_life;
struct level_core;
void retain(level_core& core) noexcept;
void release(level_core& core) noexcept;
level_core* open_level(std::string_view name, hub& above, std::function<void(level&)> make);

/// While it lives, something is made that belongs to a level; raises `level_over` when nothing may be.
class making_in_level {
public:
    explicit making_in_level(const level_core& in);
    making_in_level(const making_in_level&) = delete;
    making_in_level& operator=(const making_in_level&) = delete;
    ~making_in_level();
    void keep(owned<level_part> made) const;

private:
    level_life* life_; ///< held
    followed_when_made now_;
};

} // namespace detail

/// A scope of the game that begins, ends and begins again: a map, a match, a room.
/// It owns a hub below the game's, a subscriber, and all that its function makes:
///
///     courier::level reef{"reef", game, [&](courier::level& here) {
///         auto& clock = here.make<courier::timetable>(later, "reef time");
///         here.make<lamp>(here.hub(), clock);              // an object of the game's
///         here.keep(wires.target("big lamp", lamp_id::big));
///         here.in().subscribe(here.hub().channel<Bitten>(), on_bitten);
///     }};
///     reef.begin();
///     ...
///     reef.restart();
///
/// **Its end** destroys what it owns, the newest first, then ends its subscriber and at
/// last its channels. Everything that was subscribed in it is gone then: what a
/// subscriber still holds that was made by its function, and what others hold of its
/// channels, ends too and is reported with its lines
/// (`fault_code::subscriptions_left`, a notice). Publishers, askers and keys of its
/// channels may stay; they do nothing.
///
/// **Asleep**, nothing in it is served: subscribers that its function made, its own, and
/// those that follow it (`in.follow(reef)`), with their timers, sequences, refreshers,
/// answers and wired actions. What it owns and has `pause()`, `resume()` and `paused()`,
/// such as a timetable or a team of systems, is paused, unless it was already.
///
/// A subscriber of something outside, such as a display, that listens to its channels
/// follows it, and is subscribed again by the function. The function makes objects that are
/// to outlive the level in `outside()`.
///
/// There may be several at once, and levels in levels (`here.make<courier::level>(...)`).
/// Every member may be called from handlers, also from those that a level ends with its
/// objects; then nothing of theirs may be touched after `end()` or `restart()`. Belongs
/// to the thread of its hub. Can be neither copied nor moved.
class level {
public:
    /// `name` is that of its hub and subscriber, and is copied. `above` must outlive it.
    /// `how` is called at each beginning; what it refers to must outlive the level.
    level(std::string_view name, courier::hub& above, std::function<void(level&)> how)
        : core_(detail::held<detail::level_core>::taking_over(detail::open_level(name, above, std::move(how)))) {}
    /// Does not compile; the message says what to write instead.
    template <class Other>
        requires(!std::is_invocable_v<Other&, level&>)
    level(std::string_view, courier::hub&, Other) {
        static_assert(detail::always_false<Other>,
                      "courier: a level is made by a function that takes a courier::level&");
    }
    level(const level&) = delete;
    level& operator=(const level&) = delete;
    ~level();

    /// The name it was made with. A view that is good while it lives.
    [[nodiscard]] std::string_view name() const noexcept;

    /// Does nothing when it has begun already. When its function throws, all that it made
    /// ends, and the exception comes out.
    void begin(std::source_location where = std::source_location::current());
    /// Does nothing when it has not begun. See above; may be called from its own handlers.
    void end() noexcept;
    /// `end()` and `begin()`.
    void restart(std::source_location where = std::source_location::current());
    /// Whether it has begun and not ended.
    [[nodiscard]] bool live() const noexcept;
    /// How often it has begun.
    [[nodiscard]] std::uint64_t times_begun() const noexcept;

    /// Does nothing when it has not begun; each beginning is awake.
    void sleep();
    /// Serves everything in it again; what was paused by itself stays so.
    void wake();
    /// Whether it is live and not asleep.
    [[nodiscard]] bool awake() const noexcept;

    /// Its channels and queries, and a subscriber of its own, while it is live; else misuse
    /// (`fault_code::level_over`), as are `make()` and `keep()` once its end has begun.
    [[nodiscard]] courier::hub& hub(std::source_location where = std::source_location::current());
    /// Its own subscriber.
    [[nodiscard]] subscriber& in(std::source_location where = std::source_location::current());

    /// Makes an object that ends with the level, after those that are made later. Subscribers
    /// that are made meanwhile belong to the level.
    template <class T, class... Parameters>
    T& make(Parameters&&... parameters) {
        const detail::making_in_level now(*core_);
        auto made = detail::make_owned<detail::level_part_of<T>>(std::forward<Parameters>(parameters)...);
        T& it = made->it;
        now.keep(std::move(made));
        return it;
    }
    /// Takes over an object that is there: a name, a subscription, a timer, a team.
    template <class T>
    T& keep(T thing) {
        return make<T>(std::move(thing));
    }

    /// Calls a function; subscribers that are made meanwhile do not belong to the level.
    template <class Function>
    decltype(auto) outside(Function&& function) {
        const detail::followed_when_made now(nullptr);
        return std::forward<Function>(function)();
    }

private:
    friend struct detail::access;
    detail::followers& followers();

    detail::held<detail::level_core> core_;
};

WIRED_COURIER_NAMESPACE_END
