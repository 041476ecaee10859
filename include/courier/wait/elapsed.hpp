// Waits for a time.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/detail/flow/sequence_core.hpp>
#include <courier/detail/later/errands.hpp>
#include <courier/timetable.hpp>

#include <cstdint>
#include <string>

WIRED_COURIER_NAMESPACE_BEGIN

namespace detail {

class elapsed_wait final : public wait_base {
public:
    using result_type = void;

    elapsed_wait(timetable& time, std::int64_t delay) noexcept
        : hours_(&access::hours(time)), box_(&access::box_of(time)), delay_(delay) {}
    elapsed_wait(elapsed_wait&& other) noexcept // before it has begun
        : wait_base(other), hours_(other.hours_), box_(other.box_), delay_(other.delay_) {}
    ~elapsed_wait() = default;

    bool begin(waiter& told) {
        waiter_ = &told;
        alarm_.set(
            *hours_, *box_, delay_,
            [](void* self) {
                auto& own = *static_cast<elapsed_wait*>(self);
                own.has_rung_ = true;
                waiter& over = *own.waiter_;
                over.done(over);
            },
            this);
        return false;
    }
    void result() const noexcept {}
    void end() noexcept { alarm_.cancel(); }
    [[nodiscard]] bool is_source_gone() const override { return !has_rung_ && !alarm_.is_set(); }
    [[nodiscard]] std::string describe() const override {
        return std::to_string(delay_ / 1000000) + " ms" + (is_source_gone() ? " of a clock that is gone" : "");
    }

private:
    timetable_core* hours_;
    outbox_core* box_;
    std::int64_t delay_;
    waiter* waiter_ = nullptr;
    alarm alarm_;
    bool has_rung_ = false;
};

} // namespace detail

/// Waits until `delay` has passed in the game time of `clock`; goes on in a
/// round of its outbox.
inline auto elapsed(timetable& clock, time_span delay) {
    return detail::elapsed_wait(clock, delay.count());
}

/// Waits for a game time; one that has passed comes with the next `advance()`.
inline auto reached(timetable& clock, time_span when) {
    return detail::elapsed_wait(clock, (game_time(when) - clock.now()).count());
}

WIRED_COURIER_NAMESPACE_END
