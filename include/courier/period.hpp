// A span of the game in which subscriptions are live, such as a storm watch.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/detail/base/in_use.hpp>
#include <courier/detail/delivery/channel_core.hpp>

#include <concepts>
#include <cstdint>
#include <functional>
#include <string>
#include <string_view>
#include <type_traits>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN

namespace detail {

struct guards;

struct period_core : counted<period_core> {
    period_core(bool is_running, std::string_view its_name);

    bool running;
    std::string name;
};

/// Whether a value that announces its changes is true right now.
template <class Source>
class while_it_holds {
public:
    explicit while_it_holds(const Source& source) : source_(&source) {
        access::open(source);
        core_ = held<channel_core>(access::core(source));
    }

    bool operator()() const { return !core_->closed && source_->glance(); }

private:
    const Source* source_;
    held<channel_core> core_; ///< is closed when the source goes
};

} // namespace detail

/// How a period begins.
struct period_options {
    bool running = true; ///< from the start
};

/// A span of the game that begins and ends, and may begin again, such as the
/// storm watch. Subscriptions with it as their delivery option `.during` are
/// served while it runs:
///
///     courier::period storm_watch{"storm watch", {.running = false}};
///     crew.subscribe(ordered, handler, {.during = storm_watch});
///     storm_watch.begin();
///
/// Beginning and ending take effect at once, also in the middle of a publish.
/// Once the period is destroyed, its subscriptions are never served again. It
/// belongs to the thread of the channels it is used with; it can be neither
/// copied nor moved.
class period {
public:
    /// `name` is for messages and reports and is copied.
    explicit period(std::string_view name = {}, period_options options = {})
        : core_(detail::held<detail::period_core>::taking_over(new detail::period_core(options.running, name))) {}
    period(const period&) = delete;
    period& operator=(const period&) = delete;
    ~period() { core_->running = false; }

    /// Subscriptions during it are served from now on; does nothing while it runs.
    void begin() noexcept { core_->running = true; }
    /// They are served no more; does nothing when it is over.
    void end() noexcept { core_->running = false; }
    /// Whether it runs.
    [[nodiscard]] bool running() const noexcept { return core_->running; }
    /// The name it was made with. A view that is good while it lives.
    [[nodiscard]] std::string_view name() const noexcept { return core_->name; }

private:
    friend class during;
    detail::held<detail::period_core> core_;
};

/// When a subscription is live at all; the value of the delivery option
/// `.during`. Made from a period, a `state<bool>` or `formula<bool>`, one or
/// several phases (courier/phases.hpp), or from any copyable callable that takes
/// nothing and returns something that converts to bool, which is asked
/// whenever the subscription's turn has come. Empty, it is always live.
class during {
public:
    during() noexcept = default;

    /// While the period runs. The period may end first; it counts as over then.
    during(const period& g); // NOLINT(google-explicit-constructor): written as an option's value

    /// While a function of nothing returns true; it is called when the turn of the subscription has come.
    template <class F>
        requires(!std::same_as<std::remove_cvref_t<F>, during> && std::predicate<std::decay_t<F>&>)
    during(F&& holds) // NOLINT(google-explicit-constructor): written as an option's value
        : open_(std::forward<F>(holds)) {}

    /// A bool would be asked once, and never again.
    template <std::same_as<bool> Bool>
    during(Bool) { // NOLINT(google-explicit-constructor): to say what is meant
        static_assert(!std::same_as<Bool, bool>, "courier: .during is asked at each turn, and a bool does not change; "
                                                 "give a period, phases::in(...), a state<bool> or a callable");
    }

    /// While a `state<bool>` or `formula<bool>` is true; never once it is gone.
    template <class Source>
        requires std::same_as<typename Source::value_type, bool>
    during(const Source& holds) // NOLINT(google-explicit-constructor): the same
        : open_(detail::while_it_holds<Source>(holds)) {}

private:
    friend struct detail::guards;

    std::function<bool()> open_;
};

WIRED_COURIER_NAMESPACE_END
