// A value computed from others.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/change.hpp>
#include <courier/config.hpp>
#include <courier/detail/base/first_failure.hpp>
#include <courier/detail/values/value_core.hpp>
#include <courier/detail/values/value_held.hpp>
#include <courier/detail/values/value_source.hpp>
#include <courier/keep_current.hpp>

#include <cstdlib>
#include <exception>
#include <functional>
#include <optional>
#include <source_location>
#include <string>
#include <string_view>
#include <type_traits>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN

/// A value that is computed by a function from states and other formulas. What
/// the function reads with `read()` makes its dependencies, found again
/// each time; what it reads with `glance()` is not.
///
///     courier::formula<int> room{"barge.room", [&] { return size.read() - crates.read(); }};
///
/// Computed again at most once for a change, however many ways lead to it, and
/// never from a mixture of old and new values. Nobody subscribed and no refresher
/// reading it, it is computed when it is read and something has changed since;
/// otherwise at once, and a change is announced as a state's is. `Same`
/// compares; an equal result is not a change.
///
/// The function returns the value and changes no state. An exception of it reaches the code that
/// reads the formula gets thrown, until something that it read changes. A
/// formula that needs its own value is reported with the way around
/// (`fault_code::formula_circle`).
///
/// Belongs to the thread that made it. May be destroyed by a handler or refresher,
/// but not by its own function, nor by one that it reads, while they run
/// (`fault_code::changed_in_use`). Can be neither copied nor moved.
template <class T, class Same = std::equal_to<>>
class formula : private detail::formula_node, public detail::value_source<change<T>, formula<T, Same>> {
    static_assert(
        std::is_invocable_r_v<bool, Same&, const T&, const T&>,
        "courier: the values of a formula are compared, so that only changes are announced; give T an operator==, or "
        "formula<T, Same> a comparison");

public:
    using value_type = T;

    /// `name` is for messages and reports and is copied. Nothing is computed yet.
    formula(std::string_view name, std::function<T()> function, Same same = {})
        : formula_node(reads, is_read), function_(std::move(function)), name_(name), same_(std::move(same)) {
        detail::enter_graph(*this);
    }
    formula(const formula&) = delete;
    formula& operator=(const formula&) = delete;
    ~formula() {
        if (status.is(status.running | status.in_use | status.climbing)) [[unlikely]] {
            detail::report_ended_in_use(*this);
        }
        detail::leave_graph(*this);
    }

    /// The name it was made with. A view that is good while it lives.
    [[nodiscard]] const std::string& name() const noexcept { return name_; }

    /// The value, up to date; whichever formula or refresher is running depends on
    /// it from now on.
    [[nodiscard]] const T& read() const {
        auto& own = const_cast<formula&>(*this);
        if constexpr (checked_build) {
            detail::check_use(own, "read", std::source_location{});
        }
        if (status.is(status.stale | status.running | status.in_use)) {
            own.bring_up_to_date();
        }
        detail::note_read(own);
        return own.result();
    }

    /// The value, up to date, without depending on it.
    [[nodiscard]] const T& glance() const {
        auto& own = const_cast<formula&>(*this);
        if constexpr (checked_build) {
            detail::check_use(own, "read", std::source_location{});
        }
        own.bring_up_to_date();
        return own.result();
    }

    /// How often the function was called.
    [[nodiscard]] std::uint64_t runs() const noexcept { return reader_node::runs; }

private:
    friend class detail::value_source<change<T>, formula<T, Same>>;
    friend struct detail::access;

    // Serves the present value on request; see `delivery_options::retained`.
    void serve_current(detail::slot* s, std::source_location where) const {
        const T& value = glance();
        const change<T> now(value, value);
        this->serve_one(s, &now, where);
    }

    static formula& of(detail::source_node& node) noexcept {
        return static_cast<formula&>(static_cast<formula_node&>(node));
    }
    static const formula& of(const detail::source_node& node) noexcept {
        return static_cast<const formula&>(static_cast<const formula_node&>(node));
    }
    static void renew_it(detail::reader_node& node) { static_cast<formula&>(static_cast<formula_node&>(node)).renew(); }
    static std::string describe_reader(const detail::reader_node& node) {
        return describe_it(static_cast<const formula_node&>(node));
    }
    static void announce_it(detail::source_node& node) { of(node).announce(); }
    static void compare_it(detail::source_node& node) { of(node).compare(); }
    static bool is_watched_it(const detail::source_node& node) noexcept { return of(node).watched(); }
    static std::string describe_it(const detail::source_node& node) { return "formula '" + of(node).name_ + "'"; }
    static constexpr detail::reader_ops reads{&renew_it, &describe_reader};
    static constexpr detail::source_ops is_read{&announce_it, &is_watched_it, &compare_it, &describe_it};

    [[nodiscard]] const std::string& source_name() const noexcept { return name_; }
    void prepare() const { // from now on changes have a value before
        auto& own = const_cast<formula&>(*this);
        if constexpr (checked_build) {
            detail::check_use(own, "subscribed to", std::source_location{});
        }
        own.told = true;
        own.bring_up_to_date();
    }

    void bring_up_to_date() {
        if (status.is(status.running | status.in_use)) [[unlikely]] {
            detail::report_circle(*this);
        } else if (status.is(status.stale)) {
            detail::refresh(*this);
        }
    }

    const T& result() { return usable_ ? *value_ : other_result(); }

    const T& other_result() {
#if WIRED_COURIER_EXCEPTIONS
        if (failed_) [[unlikely]] {
            std::rethrow_exception(failed_);
        }
#endif
        if (!value_) [[unlikely]] { // a circle, and its fault handler returned
            if constexpr (std::is_default_constructible_v<T>) {
                value_.emplace();
            } else {
                std::abort();
            }
        }
        return *value_;
    }

    void renew() {
#if WIRED_COURIER_EXCEPTIONS
        try {
#endif
            take(compute());
#if WIRED_COURIER_EXCEPTIONS
        } catch (...) {
            failed_ = std::current_exception();
            usable_ = false;
            version = detail::next_version();
        }
#endif
    }

    T compute() {
        const detail::reading what_is_read(*this);
        return function_();
    }

    void take(T&& fresh) {
        const detail::status_while until_then(status,
                                              status.in_use); // what compares, moves and ends values may not destroy it
        if (usable_ && same_(std::as_const(*value_), std::as_const(fresh))) {
            return;
        }
        if (!usable_) {
            failed_ = nullptr;
            usable_ = true;
        }
        if (told || detail::this_hold.holds != 0) [[unlikely]] {
            keep_before();
        }
        version = detail::next_version();
        detail::replace(value_, std::move(fresh));
    }

    // The value announced as the one before, and a candidate for the one after.
    void keep_before() {
        if (value_ && !before_ && (this->watched() || detail::this_hold.holds != 0)) {
            if (detail::this_hold.holds != 0) {
                detail::note_changed(*this);
            }
            before_.emplace(std::move_if_noexcept(*value_));
            old_version_ = version;
        }
    }

    void compare() {
        if (!before_) {
            return;
        }
        bool same = false;
        {
            const detail::status_while until_then(status, status.in_use);
            same = !has_failed() && same_(std::as_const(*before_), std::as_const(*value_));
        }
        version = same ? old_version_ : version;
        if (same || !this->watched()) {
            [[maybe_unused]] const auto gone = detail::take_out(before_);
        }
    }

    [[nodiscard]] bool has_failed() const noexcept { return failed_ != nullptr; }

    void announce() {
#if WIRED_COURIER_EXCEPTIONS
        if (has_failed()) {
            std::rethrow_exception(failed_);
        }
#endif
        detail::first_failure failed;
        failed.run([this] { compare(); }); // one that throws has found no two values the same
        if (const auto before = detail::take_out(before_); before) {
            this->note_change_of_sources();
            failed.run([&] { this->tell(change<T>(*before, *value_)); }); // which may be the end of this formula
        }
        failed.rethrow();
    }

    // Members needed for every change lie next to those in front of the node.
    std::function<T()> function_;
    std::optional<T> value_;
    bool usable_ = false; ///< there is a value, and it is not outdated
    std::exception_ptr failed_;
    std::optional<T> before_;       ///< until its change is announced
    std::uint64_t old_version_ = 0; ///< when that was the value
    std::string name_;
    [[no_unique_address]] Same same_;
};

WIRED_COURIER_NAMESPACE_END
