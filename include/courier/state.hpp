// A value that announces its changes.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/change.hpp>
#include <courier/channel.hpp>
#include <courier/config.hpp>
#include <courier/detail/base/first_failure.hpp>
#include <courier/detail/base/in_use.hpp>
#include <courier/detail/values/value_core.hpp>
#include <courier/detail/values/value_held.hpp>
#include <courier/detail/values/value_source.hpp>
#include <courier/keep_current.hpp>
#include <courier/together.hpp>

#include <concepts>
#include <cstdint>
#include <functional>
#include <optional>
#include <source_location>
#include <string>
#include <string_view>
#include <type_traits>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN

/// Holds a value and announces when it becomes another one. `Same` compares:
/// setting an equal value announces nothing.
///
///     courier::state<int> crates{"harbour.crates", 12};
///     in.subscribe(crates, [](const courier::change<int>& c) { show(c.before(), c.after()); });
///     crates.set(11);
///
/// A `state&` lets code set it; a `const state&` lets it only
/// read and subscribe. Formulas and refreshers that `read()` it depend on it;
/// `glance()` reads without depending.
///
/// A change is announced before `set()` returns: first to those that subscribed
/// to this state, then formulas and refreshers that depend on it are computed and
/// run, in the order in which they were made. A state that is set meanwhile has its
/// value at once and is announced when that is done, so that nobody hears of
/// changes in another order than they were made in; so do changes made
/// `together()`. A handler or refresher that throws keeps nothing from being
/// served; the first exception is thrown by `set()`.
///
/// Belongs to the thread that made it. May be destroyed by a handler; formulas
/// and refreshers that read it keep what they have. Can be neither copied nor moved.
template <class T, class Same = std::equal_to<>>
class state : private detail::source_node, public detail::value_source<change<T>, state<T, Same>> {
    static_assert(
        std::is_invocable_r_v<bool, Same&, const T&, const T&>,
        "courier: the values of a state are compared, so that only changes are announced; give T an operator==, or "
        "state<T, Same> a comparison");

public:
    using value_type = T;

    /// `name` is for messages and reports and is copied.
    explicit state(std::string_view name, T value = {}, Same same = {})
        : source_node(how), name_(name), value_(std::move(value)), same_(std::move(same)) {
        detail::enter_graph(*this);
    }
    state(const state&) = delete; // courier: neither copied nor moved; hold its object by std::unique_ptr
    state& operator=(const state&) = delete;
    ~state() {
        if (in_use) [[unlikely]] {
            detail::report_ended_in_use(*this);
        }
        if (announcing_ != nullptr) {
            announcing_->state_ended = true;
        }
        detail::leave_graph(*this);
    }

    /// The name it was made with. A view that is good while it lives.
    [[nodiscard]] const std::string& name() const noexcept { return name_; }

    /// The value; whichever formula or refresher is running depends on it from now on.
    [[nodiscard]] const T& read() const {
        detail::note_read(const_cast<state&>(*this));
        return value_;
    }

    /// The value, without depending on it.
    [[nodiscard]] const T& glance() const noexcept { return value_; }

    /// Gives it another value; false when it has that already, or when a
    /// formula is being computed (`fault_code::set_in_formula`).
    bool set(T value, std::source_location where = std::source_location::current()) {
        if (!in_use && is_same(value_, value)) {
            return false;
        }
        bool alone = !checked_build && detail::changes_alone(*this);
        if (!alone) [[unlikely]] {
            if (!detail::may_change(*this, where)) {
                return false;
            }
            alone = detail::changes_unseen(*this) || (checked_build && detail::changes_alone(*this));
        }
        if (alone) {
            change_alone(value, where);
            return true;
        }
        const std::uint64_t was = version;
        detail::touch(*this); // what takes memory comes first
        this->note_change(where);
        if (!before_ && (this->watched() || detail::this_hold.holds != 0)) {
            set_watched(std::move(value), was);
            detail::settle();
        } else {
            [[maybe_unused]] const T gone = put(std::move(value)); // destroyed last; it may own this state
            detail::settle();
        }
        return true;
    }

    /// Changes a copy of the value with `edit`, and sets that.
    template <std::invocable<T&> Edit>
    bool edit(Edit&& edit, std::source_location where = std::source_location::current()) {
        const detail::lifetime::watch own(life_); // which `edit` may destroy
        T copy = copy_of_value();
        edit(copy);
        return !own.is_over() && set(std::move(copy), where);
    }

    /// Sets the value with something added to it, or taken away:
    /// `crates.add(3)`, `crates.subtract(1)`.
    template <class By>
        requires requires(const T& value, const By& by) { T(value + by); }
    bool add(const By& by, std::source_location where = std::source_location::current()) {
        return set(T(glance() + by), where);
    }
    /// `set()` with the difference; true when that is a change.
    template <class By>
        requires requires(const T& value, const By& by) { T(value - by); }
    bool subtract(const By& by, std::source_location where = std::source_location::current()) {
        return set(T(glance() - by), where);
    }

    /// Does not compile; the message says what to write instead.
    template <class Never = void>
    bool set(const T&) const {
        static_assert(!std::is_void_v<Never>, "courier: a const state can be read and subscribed to only; to set it, "
                                              "hold the state itself");
        return false;
    }

private:
    friend class detail::value_source<change<T>, state<T, Same>>;
    friend struct detail::access;
    friend struct detail::saving_access;

    // Serves the present value on request; see `delivery_options::retained`.
    void serve_current(detail::slot* s, std::source_location where) const {
        const change<T> now(value_, value_);
        this->serve_one(s, &now, where);
    }

    static state& of(detail::source_node& node) noexcept { return static_cast<state&>(node); }
    static void announce_it(detail::source_node& node) { of(node).announce(); }
    static void compare_it(detail::source_node& node) { of(node).compare(); }
    static bool is_watched_it(const detail::source_node& node) noexcept {
        return static_cast<const state&>(node).watched();
    }
    static std::string describe_it(const detail::source_node& node) {
        return "state '" + static_cast<const state&>(node).name_ + "'";
    }
    static constexpr detail::source_ops how{&announce_it, &is_watched_it, &compare_it, &describe_it};

    void prepare() const {
        auto& own = const_cast<state&>(*this);
        if constexpr (checked_build) {
            detail::check_use(own, "subscribed to", std::source_location{});
        }
        own.told = true;
    }
    [[nodiscard]] const std::string& source_name() const noexcept { return name_; }

    T copy_of_value() {
        const detail::while_true now(in_use);
        return value_;
    }
    // It may not be destroyed by what it runs itself.
    bool is_same(const T& a, const T& b) {
        const detail::while_true now(in_use);
        return same_(a, b);
    }
    T put(T&& value) {
        const detail::while_true now(in_use);
        return detail::replace(value_, std::move(value));
    }
    void change_alone(T& value, std::source_location where) {
        version = detail::next_version();
        this->note_change(where);
        const T before = put(std::move(value)); // destroyed last; it may own this state
        if (this->watched()) {
            detail::announce_alone([&] { tell_of(before); }); // which may be the end of this state
        }
    }
    void set_watched(T&& value, std::uint64_t was) {
        const detail::while_true now(in_use);
        before_.emplace(detail::replace(value_, std::move(value)));
        old_version_ = was;
        if (announcing_ != nullptr) {
            announcing_->what.after_ = &*before_; // for the subscribers that have yet to hear of that one
        }
    }
    void compare() {
        if (before_ && is_same(*before_, value_)) {
            version = old_version_;
            [[maybe_unused]] const auto gone = detail::take_out(before_);
        }
    }

    void announce() {
        detail::first_failure failed;
        failed.run([this] { compare(); }); // one that throws has found no two values the same
        if (const auto before = detail::take_out(before_); before && this->watched()) {
            failed.run([&] { tell_of(*before); }); // which may be the end of this state
        }
        failed.rethrow();
    }

    // While somebody is subscribed.
    void tell_of(const T& before) {
        telling now{change<T>(before, value_)};
        announcing_ = &now;
        struct guard {
            state& own;
            const telling& now;
            ~guard() {
                if (!now.state_ended) {
                    own.announcing_ = nullptr;
                }
            }
        } const done{*this, now};
        this->tell_watching(now.what);
    }

    struct telling {
        change<T> what;
        bool state_ended = false;
    };

    std::string name_;
    T value_;
    std::optional<T> before_; ///< until its change is announced
    std::uint64_t old_version_ = 0;
    telling* announcing_ = nullptr; ///< while it is being announced
    detail::lifetime life_;
    [[no_unique_address]] Same same_;
};

WIRED_COURIER_NAMESPACE_END
