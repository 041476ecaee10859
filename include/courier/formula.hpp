// A value computed from others.
#pragma once

#include <courier/change.hpp>
#include <courier/config.hpp>
#include <courier/detail/value_core.hpp>
#include <courier/detail/value_source.hpp>
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

namespace courier::inline WIRED_COURIER_ABI {

/// A value that is computed by a function from states and other formulas. What
/// the function reads with `read()` is what the formula depends on, found anew
/// each time; what it reads with `peek()` is not.
///
///     courier::formula<int> room{"barge.room", [&] { return size.read() - crates.read(); }};
///
/// Computed again at most once for a change, however many ways lead to it, and
/// never from a mixture of old and new values. Nobody subscribed and no view
/// reading it, it is computed when it is read and something has changed since;
/// otherwise at once, and a change is announced as a state's is. `Same`
/// compares; what comes out the same is no change.
///
/// The function returns the value and changes no state. What it throws, whoever
/// reads the formula gets thrown, until something that it read changes. A
/// formula that needs its own value is reported with the way around
/// (`fault_code::formula_circle`).
///
/// Belongs to the thread that made it. May be destroyed by a handler or view,
/// but not while its own function runs. Can be neither copied nor moved.
template <class T, class Same = std::equal_to<>>
class formula : private detail::reader_node, public detail::value_source<change<T>, formula<T, Same>> {
public:
    using value_type = T;

    /// `name` is for messages and reports and is copied. Nothing is computed yet.
    formula(std::string_view name, std::function<T()> function, Same same = {})
        : reader_node(how), function_(std::move(function)), name_(name), same_(std::move(same)) {
        stale = true;
        detail::enter_graph(*this);
    }
    formula(const formula&) = delete;
    formula& operator=(const formula&) = delete;
    ~formula() { detail::leave_graph(*this); }

    [[nodiscard]] const std::string& name() const noexcept { return name_; }

    /// The value, up to date; whichever formula or view is running depends on
    /// it from now on.
    [[nodiscard]] const T& read() const {
        auto& own = const_cast<formula&>(*this);
        if (stale || running) {
            own.bring_up_to_date();
        }
        detail::note_read(own);
        return own.result();
    }

    /// The value, up to date, without depending on it.
    [[nodiscard]] const T& peek() const {
        auto& own = const_cast<formula&>(*this);
        own.bring_up_to_date();
        return own.result();
    }

    /// How often the function was called.
    [[nodiscard]] std::uint64_t runs() const noexcept { return reader_node::runs; }

    /// For subscribers; see `delivery::retained`.
    void serve_current(detail::slot* s, std::source_location where) const {
        const T& value = peek();
        const change<T> now(value, value);
        this->serve_one(s, &now, where);
    }

private:
    friend class detail::value_source<change<T>, formula<T, Same>>;
    friend struct detail::access;

    static formula& of(detail::value_node& node) noexcept {
        return static_cast<formula&>(static_cast<reader_node&>(node));
    }
    static void renew_it(detail::reader_node& node) { static_cast<formula&>(node).renew(); }
    static void announce_it(detail::value_node& node) { of(node).announce(); }
    static void compare_it(detail::value_node& node) { of(node).compare(); }
    static bool is_watched_it(const detail::value_node& node) noexcept {
        return static_cast<const formula&>(static_cast<const reader_node&>(node)).watched();
    }
    static std::string describe_it(const detail::value_node& node) {
        return "formula '" + static_cast<const formula&>(static_cast<const reader_node&>(node)).name_ + "'";
    }
    static constexpr detail::value_ops how{&renew_it, &announce_it, &is_watched_it, &compare_it, &describe_it};

    [[nodiscard]] const std::string& source_name() const noexcept { return name_; }
    void prepare() const { // from now on changes have a value before
        auto& own = const_cast<formula&>(*this);
        own.told = true;
        own.bring_up_to_date();
    }

    void bring_up_to_date() {
        if (running) [[unlikely]] {
            detail::report_circle(*this);
        } else if (stale) {
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
        if (!value_) [[unlikely]] { // a circle, and whoever heard of it went on
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
        if (usable_ && same_(std::as_const(*value_), std::as_const(fresh))) {
            return;
        }
        if (!usable_) {
            failed_ = nullptr;
            usable_ = true;
        }
        if (told || detail::this_values.together != 0) [[unlikely]] {
            keep_before();
        }
        version = detail::next_version();
        if constexpr (std::is_move_assignable_v<T>) {
            value_ = std::move(fresh);
        } else {
            value_.emplace(std::move(fresh));
        }
    }

    // What is told as the value before, and what may turn out to be the value after.
    void keep_before() {
        if (value_ && !before_ && (this->watched() || detail::this_values.together != 0)) {
            before_.emplace(std::move(*value_));
            old_version_ = version;
            if (detail::this_values.together != 0) {
                detail::note_changed(*this);
            }
        }
    }

    void compare() {
        if (before_ && !has_failed() && same_(std::as_const(*before_), std::as_const(*value_))) {
            version = old_version_;
            before_.reset();
        } else if (!this->watched()) {
            before_.reset();
        }
    }

    [[nodiscard]] bool has_failed() const noexcept { return failed_ != nullptr; }

    void announce() {
#if WIRED_COURIER_EXCEPTIONS
        if (has_failed()) {
            std::rethrow_exception(failed_);
        }
#endif
        compare();
        if (!before_) {
            return;
        }
        const T before = std::move(*before_);
        before_.reset();
        this->note_change_of_sources();
        this->tell(change<T>(before, *value_));
    }

    // What is needed for every change lies next to what the node has in front.
    std::function<T()> function_;
    std::optional<T> value_;
    bool usable_ = false; ///< there is a value, and it is no old one
    std::exception_ptr failed_;
    std::optional<T> before_;       ///< until its change is announced
    std::uint64_t old_version_ = 0; ///< when that was the value
    std::string name_;
    [[no_unique_address]] Same same_;
};

} // namespace courier::inline WIRED_COURIER_ABI
