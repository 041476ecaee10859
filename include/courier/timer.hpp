// The owner of a payload that waits for its time.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/detail/base/in_use.hpp>
#include <courier/detail/later/timetable_core.hpp>

#include <cstdint>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN

class timetable; // courier: #include <courier/timetable.hpp>

/// Owns a payload that a timetable is to post, once or at every interval. The end
/// of the timer destroys a payload that still waits.
/// Movable; the timetable may end first. Belongs to the timetable's thread.
class [[nodiscard("courier: nothing is posted once this timer is destroyed; keep or release it")]] timer {
public:
    /// Of nothing.
    timer() noexcept = default;
    /// Takes over what the other one has, which then has nothing.
    timer(timer&& other) noexcept = default;
    /// Takes over what the other one has, which then has nothing.
    timer& operator=(timer&& other) noexcept {
        detail::replace_handle(*this, std::move(other));
        return *this;
    }
    timer(const timer&) = delete; // courier: moved only: std::move() it, or hold it by std::shared_ptr
    timer& operator=(const timer&) = delete;
    ~timer() { end(); }

    /// Destroys the payload, if it still waits.
    void end() noexcept {
        if (const auto core = std::move(core_); core) { // destroying the payload may destroy this timer
            detail::cancel(*core, place_, stay_);
        }
    }

    /// Leaves the payload to the timetable, which posts it whatever becomes of the caller:
    /// `clock.after(2s, thunder, {}).release();`
    void release() noexcept { core_ = {}; }

    /// Whether the payload still waits.
    [[nodiscard]] bool live() const noexcept { return core_ && detail::is_waiting(*core_, place_, stay_); }

private:
    friend class timetable;
    timer(detail::timetable_core& core, detail::timer_place made) noexcept
        : core_(core), place_(made.place), stay_(made.stay) {}

    detail::held<detail::timetable_core> core_;
    std::uint32_t place_ = 0;
    std::uint32_t stay_ = 0;
};

WIRED_COURIER_NAMESPACE_END
