// A counted place in a lane.
#pragma once

#include <courier/config.hpp>
#include <courier/detail/later/lane_base.hpp>
#include <courier/detail/later/outbox_core.hpp>

#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// A counted place in a lane; what posters, inlets and timers are made of.
class lane_user {
public:
    lane_user() noexcept = default;
    explicit lane_user(lane_base& lane) noexcept : lane_(&lane) {
        ++lane.users;
        retain(*lane.box);
    }
    lane_user(const lane_user& other) noexcept : lane_user() {
        if (other.lane_ != nullptr) {
            *this = lane_user(*other.lane_);
        }
    }
    lane_user(lane_user&& other) noexcept : lane_(std::exchange(other.lane_, nullptr)) {}
    lane_user& operator=(lane_user other) noexcept {
        std::swap(lane_, other.lane_);
        return *this;
    }
    ~lane_user() {
        if (lane_ != nullptr) {
            end_use(*lane_);
        }
    }

    [[nodiscard]] lane_base* get() const noexcept { return lane_; }
    [[nodiscard]] bool open() const noexcept {
        return lane_ != nullptr && !lane_->box_closed && !lane_->target->closed;
    }

private:
    lane_base* lane_ = nullptr;
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
