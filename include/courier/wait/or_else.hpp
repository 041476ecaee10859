// Waits for something else when the first came to nothing.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/detail/flow/several_waits.hpp>
#include <courier/detail/flow/temporary.hpp>

#include <concepts>
#include <optional>
#include <string>
#include <type_traits>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN

namespace detail {

template <class First, class Fallback>
class or_else_wait final : public wait_base {
    using second_wait = std::invoke_result_t<Fallback&>;
    static_assert(waitable<second_wait>, "courier: the fallback of or_else is a function that returns another "
                                         "wait, such as a sequence");

public:
    using result_type = kept_result<second_wait>;
    static_assert(std::is_constructible_v<result_type, decltype(*std::declval<kept_result<First>>())>,
                  "courier: the fallback of or_else gives something else than the first");

    or_else_wait(First&& first, Fallback fallback) : first_(std::move(first)), fallback_(std::move(fallback)) {}
    or_else_wait(or_else_wait&&) = default;
    ~or_else_wait() = default;

    bool begin(waiter& told) {
        waiter_ = &told;
        inner_ = place{{&is_done, told.of}, this};
        return first_.begin(inner_) && first_is_over();
    }
    result_type result() { return found_ ? std::move(*found_) : take_result(*second_); }
    void keep() override {
        if (second_) {
            second_->keep();
        }
    }
    void end() noexcept {
        first_.end();
        if (second_) {
            second_->end();
        }
    }
    [[nodiscard]] bool is_source_gone() const override {
        return second_ ? second_->is_source_gone() : first_.is_source_gone();
    }
    [[nodiscard]] const channel_core* awaited() const override {
        return second_ ? second_->awaited() : first_.awaited();
    }
    [[nodiscard]] std::string describe() const override {
        return second_ ? second_->describe() : first_.describe() + ", or else something else";
    }

private:
    struct place : waiter {
        or_else_wait* own = nullptr;
    };

    static void is_done(waiter& self) {
        or_else_wait& own = *static_cast<place&>(self).own;
        bool over = own.second_.has_value();
        if (!over) {
            held_sequence now(*own.waiter_->of); // the fallback may end it
            over = own.first_is_over();
            if (!now.let_go()) {
                return;
            }
        }
        if (over) {
            own.waiter_->done(*own.waiter_);
        }
    }
    // True when nothing has to be waited for any more.
    bool first_is_over() {
        kept_result<First> result = take_result(first_);
        if (result) {
            found_.emplace(*std::move(result));
            return true;
        }
        second_.emplace(fallback_());
        return second_->begin(inner_);
    }

    First first_;
    Fallback fallback_;
    std::optional<result_type> found_;
    std::optional<second_wait> second_;
    waiter* waiter_ = nullptr;
    place inner_{};
};

} // namespace detail

/// Waits for `first`, which gives a `std::optional`; when that is empty, for
/// what `fallback()` returns, such as a sequence. Gives what that gives. May be
/// nested for a third and fourth.
///
///     auto table = co_await courier::or_else(from_harbour_office(), [&] { return from_disk(); });
template <detail::waitable First, class Fallback>
auto or_else(First first, Fallback&& fallback) {
    detail::check_temporary<Fallback>();
    constexpr bool fits = requires(detail::kept_result<First> r) { static_cast<bool>(r), *r; };
    static_assert(fits, "courier: or_else needs a first wait that may come to nothing: one that gives a std::optional");
    if constexpr (fits) {
        return detail::or_else_wait<First, std::decay_t<Fallback>>(std::move(first), std::forward<Fallback>(fallback));
    } else {
        return first;
    }
}

WIRED_COURIER_NAMESPACE_END
