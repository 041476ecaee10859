// A named party that owns subscriptions.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/channel.hpp>
#include <courier/config.hpp>
#include <courier/delivery_options.hpp>
#include <courier/detail/base/in_use.hpp>
#include <courier/detail/base/refusals.hpp>
#include <courier/detail/delivery/given_handler.hpp>
#include <courier/detail/delivery/party.hpp>
#include <courier/game_time.hpp>
#include <courier/timer_options.hpp>

#include <cstddef>
#include <cstdint>
#include <source_location>
#include <string_view>
#include <type_traits>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN

class outbox;    // courier: #include <courier/outbox.hpp>
class timetable; // courier: #include <courier/timetable.hpp>
namespace detail {
struct refresher_node;
}
template <class Result>
class sequence; // courier: #include <courier/sequence.hpp>

namespace detail {
/// A right to publish, without one to subscribe.
template <class T>
inline constexpr bool is_publisher = false;
template <class Payload>
inline constexpr bool is_publisher<publisher<Payload>> = true;
} // namespace detail

/// Stands for one subscription of a subscriber. A plain value that owns
/// nothing and may outlive everything; a key whose subscription has ended
/// matches nothing.
class subscription_key {
public:
    subscription_key() noexcept = default;

private:
    friend class subscriber;
    explicit subscription_key(const detail::slot* s) noexcept
        : slot_(s), born_(s != nullptr ? static_cast<std::uint32_t>(s->born) : 0) {}

    const detail::slot* slot_ = nullptr;
    std::uint32_t born_ = 0;
};

/// Owns any number of subscriptions, to any channels, and ends them all when
/// it ends. Made a member of the object whose handlers it subscribes, it keeps
/// that object from ever being called after its end; for the same reason it
/// can be neither copied nor moved, and so neither can that object.
///
/// Declare it last, so that it is destroyed first. All channels that one
/// subscriber subscribes to must belong to one thread, and all members must be
/// called there. Every member may be called from a handler, and a handler may
/// destroy its subscriber.
class subscriber {
public:
    /// `name` is for messages and reports and is copied; it may be empty.
    explicit subscriber(std::string_view name = {});
    subscriber(const subscriber&) = delete; // courier: neither copied nor moved; hold its object by std::unique_ptr
    subscriber& operator=(const subscriber&) = delete;
    ~subscriber();

    /// The name it was made with. A view that is good while it lives.
    [[nodiscard]] std::string_view name() const noexcept { return party_->name; }

    /// Attaches `handler` to `source`, a channel or one address of a channel
    /// (`bitten.at(3)`), as `channel::subscribe()` does, and keeps the
    /// subscription. While paused, new subscriptions start paused.
    ///
    /// A member function is given with its object, `in.subscribe<&Logbook::on_moored>(moored, *this)`; a free function
    /// alone, `in.subscribe<&ring>(moored)` or `in.subscribe<&ring>(moored, {.times = 1})`.
    template <auto... Function, class Source, class Handler = detail::options_of<Source>>
    subscription_key
    subscribe(const Source& source, Handler&& handler = {},     // courier: options are delivery_options
              detail::options_of<Source, Handler> options = {}, // courier: options are delivery_options
              std::source_location where = std::source_location::current()) {
        using given = detail::given_handler<Handler, Function...>;
        static_assert(!std::is_pointer_v<Source>, "courier: give the channel itself instead of a pointer to it: "
                                                  "in.subscribe(*channel, handler)");
        static_assert(std::is_pointer_v<Source> || detail::has_payload<Source>,
                      "courier: one subscribes to a channel, an address of one, a state, a formula or a pipeline");
        static_assert(!detail::is_publisher<Source>, "courier: a publisher has the right to publish only; subscribe to "
                                                     "the channel");
        static_assert(given::is_in_brackets, WIRED_COURIER_METHOD_AS_ARGUMENT);
        static_assert(given::is_of_object, WIRED_COURIER_NO_OBJECT);
        if constexpr (detail::has_payload<Source> && given::is_in_brackets && given::is_of_object) {
            static_assert(detail::takes_handler<Source, typename given::type>, WIRED_COURIER_NO_HANDLER);
            const detail::held until_then(party_);
            given::take_options(std::forward<Handler>(handler), options);
            auto own = given::make(std::forward<Handler>(handler));
            return keep(source, source.attach(own, options, where, party_), options.retained, where);
        } else {
            return {};
        }
    }

    /// The next payload of `source` only: as `subscribe()` with `{.times = 1}`.
    template <auto... Function, class Source, class Handler = detail::options_of<Source>>
    subscription_key once(const Source& source, Handler&& handler = {},
                          detail::options_of<Source, Handler> options = {},
                          std::source_location where = std::source_location::current()) {
        using given = detail::given_handler<Handler, Function...>;
        given::take_options(std::forward<Handler>(handler), options);
        options.times = 1;
        if constexpr (given::options_come_first) {
            return subscribe<Function...>(source, std::move(options), {}, where);
        } else {
            return subscribe<Function...>(source, std::forward<Handler>(handler), std::move(options), where);
        }
    }

    /// Calls `function()` after a delay, or at a time, in the game time of
    /// `clock` and in a round of its outbox: `in.after(clock, 2s, [this] { ring(); })`.
    /// Over with the call, with this subscriber, or by its key. A call that falls due
    /// while this is paused is made in the next round after `resume()`. The
    /// timetable may end first; nothing is called then. An exception of the function
    /// comes out of `deliver()`.
    template <class Function>
    subscription_key after(timetable& clock, time_span delay, Function&& function,
                           std::source_location where = std::source_location::current());
    /// As `after()`, at a time of the clock.
    template <class Function>
    subscription_key at(timetable& clock, time_span when, Function&& function,
                        std::source_location where = std::source_location::current());

    /// Calls `function()` at every `interval`, the first time one interval from now, until
    /// its end. Beats missed in a long frame come as `how` says; those missed while this
    /// was paused, as one.
    template <class Function>
    subscription_key every(timetable& clock, time_span interval, Function&& function, timer_options how = {},
                           std::source_location where = std::source_location::current());

    /// Answers `asked`, a `courier::query`, as `query::answer()` does, and
    /// keeps that up as it keeps subscriptions; while paused it gives no
    /// answers.
    template <class Query, class Handler>
    subscription_key answer(Query& asked, Handler&& handler,
                            delivery_options<typename Query::question_type> options = {},
                            std::source_location where = std::source_location::current()) {
        static_assert(Query::template is_answered_by<std::decay_t<Handler>>, WIRED_COURIER_NO_ANSWERER);
        const detail::held until_then(party_);
        return subscription_key{asked.attach(std::forward<Handler>(handler), options, where, party_)};
    }

    /// Keeps a refresher current: calls `refresher`, and again whenever a state or
    /// formula has changed that it read the last time; see
    /// courier/keep_current.hpp.
    template <class Refresher>
    subscription_key keep_current(Refresher&& refresher, std::source_location where = std::source_location::current());

    /// As above, but again in the next round of `through` at the earliest, so
    /// that a refresher of ten values that change in a frame is run once.
    template <class Refresher>
    subscription_key keep_current(outbox& through, Refresher&& refresher,
                                  std::source_location where = std::source_location::current());

    /// Starts a sequence, which runs to its first wait, and ends it with this
    /// subscriber, or by the key; see courier/sequence.hpp. While paused, it
    /// hears nothing and does not go on; a wait that was over by then goes on when
    /// resumed.
    subscription_key start(sequence<void>&& what, std::source_location where = std::source_location::current());

    /// Serves nothing until `resume()`; takes effect at once. Payloads
    /// published meanwhile are missed.
    void pause() noexcept;

    /// Serves all subscriptions again, in their old places, at once.
    void resume() noexcept;

    /// Whether `pause()` holds; sleep of what it follows counts apart.
    [[nodiscard]] bool paused() const noexcept { return party_->paused; }

    /// From now on sleeps and wakes with `whom`, a `lifecycle`, a `level` or another
    /// subscriber: while that sleeps (or is paused), everything here is as if paused,
    /// whatever `pause()` and `resume()` say. When it ends, so do all subscriptions. May
    /// follow several, and sleeps while any does; following in a circle is not allowed.
    template <class Leader>
    void follow(Leader& whom) {
        detail::add_follower(detail::access::followers_of(whom), *party_);
    }
    /// Whether any of those that it follows sleeps.
    [[nodiscard]] bool asleep() const noexcept { return party_->asleep != 0; }

    /// Ends all subscriptions, the newest first.
    void clear() noexcept;

    /// Ends all subscriptions to `source`, a channel or a query, and returns
    /// how many there were.
    template <class Source>
    std::size_t leave(const Source& source) noexcept {
        return leave_core(*detail::access::core(source));
    }

    /// Ends one subscription; false when it had ended already.
    bool end(subscription_key key) noexcept;

    /// Whether the subscription is attached; also while paused.
    [[nodiscard]] bool live(subscription_key key) const noexcept { return find(key) != nullptr; }

    /// How many subscriptions are live, paused ones included.
    [[nodiscard]] std::size_t size() const noexcept { return party_->count; }

private:
    friend struct detail::access;
    detail::followers& followers() const { return detail::followers_of(*party_); }
    template <class Source>
    static subscription_key keep(const Source& source, detail::slot* made, bool wants_retained,
                                 std::source_location where) {
        const subscription_key key{made}; // it may end in what follows
        if (made != nullptr && wants_retained) {
            detail::serve_current_of(source, made, where);
        }
        return key;
    }

    static subscription_key begin(detail::refresher_node* refresher);
    template <class Function>
    subscription_key call_later(timetable& clock, game_time delay, detail::repetition again, Function&& function,
                                std::source_location where);
    [[nodiscard]] detail::slot* find(subscription_key key) const noexcept;
    std::size_t leave_core(const detail::channel_core& core) noexcept;

    detail::party* party_;
};

WIRED_COURIER_NAMESPACE_END
