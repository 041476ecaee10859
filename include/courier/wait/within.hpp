// Waits with a time limit.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/wait/elapsed.hpp>
#include <courier/wait/when_any.hpp>

#include <optional>
#include <string>
#include <type_traits>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN

namespace detail {

template <class Wait>
class within_wait final : public wait_base {
    using either = any_of_wait<Wait, elapsed_wait>;

public:
    using result_type =
        std::conditional_t<std::is_void_v<typename Wait::result_type>, bool, std::optional<kept_result<Wait>>>;

    within_wait(Wait&& wait, elapsed_wait&& limit) : either_(std::move(wait), std::move(limit)) {}
    within_wait(within_wait&&) = default;
    ~within_wait() = default;

    bool begin(waiter& told) { return either_.begin(told); }
    result_type result() {
        auto first = either_.result();
        if constexpr (std::is_void_v<typename Wait::result_type>) {
            return first.index() == 0;
        } else {
            return first.index() == 0 ? result_type(std::get<0>(std::move(first))) : std::nullopt;
        }
    }
    void keep() override { either_.keep(); }
    void end() noexcept { either_.end(); }
    [[nodiscard]] std::string describe() const override { return either_.describe(); }

private:
    either either_;
};

} // namespace detail

/// Waits for `wait`, at most `limit` of the game time of `clock`. Gives a
/// `std::optional` of the result, empty when the time was up; for waits without
/// a result, whether it was in time.
template <detail::waitable Wait>
auto within(timetable& time, time_span limit, Wait wait) {
    return detail::within_wait<Wait>(std::move(wait), elapsed(time, limit));
}

WIRED_COURIER_NAMESPACE_END
