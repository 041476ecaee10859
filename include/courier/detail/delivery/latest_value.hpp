// A copy of the latest of what comes.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/detail/base/in_use.hpp>
#include <courier/detail/base/owned.hpp>

#include <optional>
#include <type_traits>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// Assigned where that can be done, since it may reuse memory. Another one may
/// come, or this one be asked for, while a value is copied, compared or
/// destroyed: what comes then is laid aside, and is the latest from then on.
/// When copying throws, there is none.
template <class T>
class latest_value {
public:
    latest_value() noexcept = default;
    latest_value(latest_value&& other) noexcept(std::is_nothrow_move_constructible_v<T>)
        : value_(std::move(other.value_)) {}
    latest_value(const latest_value& other) : value_(other.value_) {} // of one that is kept apart, and not in use
    latest_value& operator=(const latest_value&) = delete;
    ~latest_value() = default;

    void put(const T& value) {
        if constexpr (is_quiet<T>) {
            value_.emplace(value);
        } else if (in_use_) {
            owned<T> made(new T(value));
            std::swap(newer_, made); // the one before is destroyed last
        } else {
            const owned<T> before = std::move(newer_);
            const while_true now(in_use_);
            assign(value);
        }
    }

    [[nodiscard]] explicit operator bool() const noexcept { return newer_ || value_.has_value(); }
    /// There must be one; good until code of the user's runs.
    [[nodiscard]] const T& operator*() const noexcept { return newer_ ? *newer_ : *value_; }

    /// Calls `what` with the value, which stays meanwhile.
    template <class What>
    decltype(auto) with(What what) const {
        if constexpr (is_quiet<T>) {
            return what(*value_);
        } else {
            struct use {
                const latest_value& own;
                bool in_use_before;
                owned<T> aside;
                ~use() {
                    own.in_use_ = in_use_before;
                    if (aside && !own.newer_) {
                        std::swap(own.newer_, aside);
                    }
                }
            } const now{*this, std::exchange(in_use_, true), std::move(newer_)};
            return what(now.aside ? std::as_const(*now.aside) : *value_);
        }
    }
    [[nodiscard]] T copy() const {
        return with([](const T& value) { return T(value); });
    }
    /// Moves it out; there is none afterwards, or what came meanwhile.
    [[nodiscard]] T take() {
        const owned<T> aside = std::move(newer_);
        struct emptied {
            latest_value& own;
            ~emptied() {
                const while_true now(own.in_use_);
                own.value_.reset();
            }
        } const afterwards{*this};
        const while_true now(in_use_);
        return aside ? T(std::move(*aside)) : T(std::move(*value_));
    }

private:
    void assign(const T& value) {
        if constexpr (std::is_copy_assignable_v<T>) {
            unless_done emptied([this] { value_.reset(); });
            value_ = value;
            emptied.done();
        } else {
            value_.emplace(value);
        }
    }

    std::optional<T> value_;
    mutable owned<T> newer_; ///< came while `value_` was in use
    mutable bool in_use_ = false;
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
