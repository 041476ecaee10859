// A value that announces its changes.
#pragma once

#include <courier/change.hpp>
#include <courier/channel.hpp>
#include <courier/config.hpp>
#include <courier/detail/value_core.hpp>
#include <courier/detail/value_source.hpp>
#include <courier/keep_current.hpp>
#include <courier/together.hpp>

#include <concepts>
#include <cstdint>
#include <functional>
#include <optional>
#include <source_location>
#include <string>
#include <string_view>
#include <utility>

namespace courier::inline WIRED_COURIER_ABI {

/// Holds a value and announces when it becomes another one. `Same` compares:
/// setting what is the same announces nothing.
///
///     courier::state<int> crates{"harbour.crates", 12};
///     in.subscribe(crates, [](const courier::change<int>& c) { show(c.before(), c.after()); });
///     crates.set(11);
///
/// Whoever holds a `state` may set it; whoever holds a `const state` may only
/// read and subscribe. Formulas and views that `read()` it depend on it;
/// `peek()` reads without depending.
///
/// A change is announced before `set()` returns: first to those who subscribed
/// to this state, then formulas and views that depend on it are computed and
/// run, in the order in which they were made. What is set meanwhile has its
/// value at once and is announced when that is done, so that nobody hears of
/// changes in another order than they were made in; so do changes made
/// `together()`. A handler or view that throws keeps nothing from being
/// served; the first exception is thrown by `set()`.
///
/// Belongs to the thread that made it. May be destroyed by a handler; formulas
/// and views that read it keep what they have. Can be neither copied nor moved.
template <class T, class Same = std::equal_to<>>
class state : private detail::value_node, public detail::value_source<change<T>, state<T, Same>> {
public:
    using value_type = T;

    /// `name` is for messages and reports and is copied.
    explicit state(std::string_view name, T value = {}, Same same = {})
        : value_node(how), name_(name), value_(std::move(value)), same_(std::move(same)) {
        detail::enter_graph(*this);
    }
    state(const state&) = delete;
    state& operator=(const state&) = delete;
    ~state() {
        if (announcing_ != nullptr) {
            announcing_->over = true;
        }
        detail::leave_graph(*this);
    }

    [[nodiscard]] const std::string& name() const noexcept { return name_; }

    /// The value; whichever formula or view is running depends on it from now on.
    [[nodiscard]] const T& read() const {
        detail::note_read(const_cast<state&>(*this));
        return value_;
    }

    /// The value, without depending on it.
    [[nodiscard]] const T& peek() const noexcept { return value_; }

    /// Gives it another value; false when it has that already, or when a
    /// formula is being computed (`fault_code::set_in_formula`).
    bool set(T value, std::source_location where = std::source_location::current()) {
        if (same_(std::as_const(value_), std::as_const(value)) || !detail::may_change(*this, where)) {
            return false;
        }
        if (!before_ && (this->watched() || detail::this_values.together != 0)) {
            old_version_ = version;
            before_.emplace(std::move(value_));
            if (announcing_ != nullptr) {
                announcing_->what.after_ = &*before_; // those who are still to hear of that one
            }
        }
        assign(std::move(value));
        this->note_change(where);
        detail::touch(*this);
        detail::settle();
        return true;
    }

    /// Changes a copy of the value with `edit`, and sets that.
    template <std::invocable<T&> Edit>
    bool edit(Edit&& edit, std::source_location where = std::source_location::current()) {
        T copy = value_;
        edit(copy);
        return set(std::move(copy), where);
    }

    template <class Never = void>
    bool set(const T&) const {
        static_assert(!std::is_void_v<Never>, "courier: a const state can be read and subscribed to only; to set it, "
                                              "hold the state itself");
        return false;
    }

    /// For subscribers; see `delivery::retained`.
    void serve_current(detail::slot* s, std::source_location where) const {
        const change<T> now(value_, value_);
        this->serve_one(s, &now, where);
    }

private:
    friend class detail::value_source<change<T>, state<T, Same>>;
    friend struct detail::access;

    struct announcement {
        change<T> what;
        bool over = false; ///< the state is gone
    };

    static state& of(detail::value_node& node) noexcept { return static_cast<state&>(node); }
    static void renew_it(detail::reader_node&) {}
    static void announce_it(detail::value_node& node) { of(node).announce(); }
    static void compare_it(detail::value_node& node) { of(node).compare(); }
    static bool is_watched_it(const detail::value_node& node) noexcept {
        return static_cast<const state&>(node).watched();
    }
    static std::string describe_it(const detail::value_node& node) {
        return "state '" + static_cast<const state&>(node).name_ + "'";
    }
    static constexpr detail::value_ops how{&renew_it, &announce_it, &is_watched_it, &compare_it, &describe_it};

    void prepare() const noexcept { const_cast<state&>(*this).told = true; }
    [[nodiscard]] const std::string& source_name() const noexcept { return name_; }

    void assign(T&& value) {
        if constexpr (std::is_move_assignable_v<T>) {
            value_ = std::move(value);
        } else {
            value_.~T(); // such as one with const members
            ::new (&value_) T(std::move(value));
        }
    }

    void compare() {
        if (before_ && same_(std::as_const(*before_), std::as_const(value_))) {
            before_.reset();
            version = old_version_;
        }
    }

    void announce() {
        compare();
        if (!before_) {
            return;
        }
        const T before = std::move(*before_);
        before_.reset();
        announcement now{change<T>(before, value_)};
        announcing_ = &now;
        struct guard {
            state& own;
            announcement& now;
            ~guard() {
                if (!now.over) {
                    own.announcing_ = nullptr;
                }
            }
        } const done{*this, now};
        this->tell(now.what);
    }

    std::string name_;
    T value_;
    std::optional<T> before_; ///< until its change is announced
    std::uint64_t old_version_ = 0;
    announcement* announcing_ = nullptr;
    [[no_unique_address]] Same same_;
};

} // namespace courier::inline WIRED_COURIER_ABI
