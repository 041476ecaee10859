// Leaves out what comes too soon.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/detail/base/in_use.hpp>
#include <courier/detail/flow/pipeline.hpp>
#include <courier/timetable.hpp>

#include <cstdint>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// Outlives its timetable, whose time then stands still.
class hours_held {
public:
    explicit hours_held(const timetable& time) noexcept : core_(access::hours(time)) {}
    [[nodiscard]] std::int64_t now() const noexcept { return static_cast<std::int64_t>(core_->now); }

private:
    held<timetable_core> core_;
};

template <class Next>
struct at_most_every_receiver {
    static constexpr bool ends = Next::ends;
    static constexpr bool asks = Next::asks;
    template <class Value>
    using gives = received<Next, Value>;
    hours_held time;
    std::int64_t interval;
    std::int64_t opens; ///< when the next may pass
    Next next;

    template <class Value, class From>
    auto operator()(const Value& value, From* end) -> received<Next, Value> {
        const std::int64_t now = time.now();
        if (now < opens) {
            return given_nothing<Next, Value>();
        }
        opens = interval > INT64_MAX - now ? INT64_MAX : now + interval;
        return next(value, end);
    }
};

struct at_most_every_step : adaptor_base {
    template <class In>
    using output = In;
    hours_held time;
    std::int64_t interval;

    template <class In, class Next>
    auto around(Next next) const {
        return at_most_every_receiver<Next>{time, interval, 0, std::move(next)};
    }
};

} // namespace detail

/// Lets one through, and then none until `interval` has passed in the game time
/// of `clock`; what comes meanwhile is left out. `quiet_for()` gives the last.
inline auto at_most_every(const timetable& clock, time_span interval) {
    return detail::at_most_every_step{{}, detail::hours_held(clock), interval.count()};
}

WIRED_COURIER_NAMESPACE_END
