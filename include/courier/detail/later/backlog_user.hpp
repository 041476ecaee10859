// A counted place in a backlog.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/detail/base/in_use.hpp>
#include <courier/detail/later/backlog_base.hpp>
#include <courier/detail/later/outbox_core.hpp>

#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// A counted place in a backlog; what posters, inlets and timers are made of.
class backlog_user {
public:
    backlog_user() noexcept = default;
    explicit backlog_user(backlog_base& backlog) noexcept : backlog_(backlog) {}

    [[nodiscard]] backlog_base* get() const noexcept { return backlog_.get(); }
    [[nodiscard]] bool open() const noexcept { return backlog_ && !backlog_->box_closed && !backlog_->target->closed; }

private:
    held<backlog_base> backlog_;
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
