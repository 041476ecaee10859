// A payload that is posted again and again.
#pragma once

#include <courier/config.hpp>
#include <courier/detail/base/in_use.hpp>
#include <courier/detail/later/timetable_core.hpp>

#include <cstdint>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN

class timetable; // courier: #include <courier/timetable.hpp>

/// Owns a payload that is posted again and again; destroying it ends that.
/// Movable; the timetable may end first.
class [[nodiscard("nothing is posted once this beat is destroyed")]] beat {
public:
    beat() noexcept = default;
    beat(beat&& other) noexcept = default;
    beat& operator=(beat&& other) noexcept {
        detail::replace_handle(*this, std::move(other));
        return *this;
    }
    beat(const beat&) = delete;
    beat& operator=(const beat&) = delete;
    ~beat() { end(); }

    void end() noexcept {
        if (const auto core = std::move(core_); core) { // what is destroyed may be the end of this beat
            detail::cancel(*core, place_, stay_);
        }
    }
    [[nodiscard]] bool live() const noexcept { return core_ && detail::is_waiting(*core_, place_, stay_); }

private:
    friend class timetable;
    detail::held<detail::timetable_core> core_;
    std::uint32_t place_ = 0;
    std::uint32_t stay_ = 0;
};

WIRED_COURIER_NAMESPACE_END
