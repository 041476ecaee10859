// A counted place in a backlog.
#pragma once

#include <courier/config.hpp>
#include <courier/detail/later/backlog_base.hpp>
#include <courier/detail/later/outbox_core.hpp>

#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// A counted place in a backlog; what posters, inlets and timers are made of.
class backlog_user {
public:
    backlog_user() noexcept = default;
    explicit backlog_user(backlog_base& backlog) noexcept : backlog_(&backlog) {
        ++backlog.users;
        retain(*backlog.box);
    }
    backlog_user(const backlog_user& other) noexcept : backlog_user() {
        if (other.backlog_ != nullptr) {
            *this = backlog_user(*other.backlog_);
        }
    }
    backlog_user(backlog_user&& other) noexcept : backlog_(std::exchange(other.backlog_, nullptr)) {}
    backlog_user& operator=(backlog_user other) noexcept {
        std::swap(backlog_, other.backlog_);
        return *this;
    }
    ~backlog_user() {
        if (backlog_ != nullptr) {
            end_use(*backlog_);
        }
    }

    [[nodiscard]] backlog_base* get() const noexcept { return backlog_; }
    [[nodiscard]] bool open() const noexcept {
        return backlog_ != nullptr && !backlog_->box_closed && !backlog_->target->closed;
    }

private:
    backlog_base* backlog_ = nullptr;
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
