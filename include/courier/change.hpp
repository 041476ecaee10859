// The announcement of a changed value.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>

WIRED_COURIER_NAMESPACE_BEGIN

template <class, class>
class state; // courier: #include <courier/state.hpp>
template <class, class>
class formula; // courier: #include <courier/formula.hpp>

/// A value before and after. Refers to values that are good while the handler
/// runs, and so can be neither copied nor kept; take out of it what you need.
template <class T>
class change {
public:
    change(const change&) = delete; // courier: a change is good for its handler only; keep its before() and after()
    change& operator=(const change&) = delete;

    /// Equal to `after()` for a subscription that asked for the current value
    /// (`{.retained = true}`) and is served it.
    [[nodiscard]] const T& before() const noexcept { return *before_; }
    /// The value that it has now.
    [[nodiscard]] const T& after() const noexcept { return *after_; }

    /// Whether this is the current value, served to a new subscription.
    [[nodiscard]] bool retained() const noexcept { return before_ == after_; }

private:
    template <class, class>
    friend class state;
    template <class, class>
    friend class formula;
    change(const T& before, const T& after) noexcept : before_(&before), after_(&after) {}

    const T* before_;
    const T* after_;
};

WIRED_COURIER_NAMESPACE_END
