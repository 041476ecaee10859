// The order of posts across channels, for outboxes that keep it.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/detail/base/first_failure.hpp>
#include <courier/detail/base/in_use.hpp>
#include <courier/detail/later/backlog_base.hpp>

#include <cstddef>
#include <utility>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// Runs of payloads of one channel, in the order in which they were posted: those that wait, and those of the round
/// under way.
class posting_order {
public:
    struct run {
        held<backlog_base> backlog;
        std::size_t count;
    };

    void make_room() {
        if (waiting_.size() == waiting_.capacity()) {
            waiting_.reserve(waiting_.empty() ? 16 : 2 * waiting_.size());
        }
    }
    /// One more of `backlog` waits.
    void note(backlog_base& backlog) {
        if (!waiting_.empty() && waiting_.back().backlog.get() == &backlog) {
            ++waiting_.back().count;
        } else {
            waiting_.push_back({held(backlog), 1});
        }
    }

    /// What waits is the round from now on, but for backlogs in the middle of a change.
    void begin_round() noexcept {
        round_.swap(waiting_);
        for (run& one : round_) {
            if (one.backlog->busy) {
                if_memory_allows([&] { waiting_.push_back({one.backlog, std::exchange(one.count, 0)}); });
            }
        }
    }
    /// The next run of the round of which something is left, or null.
    [[nodiscard]] run* next() noexcept {
        while (next_ < round_.size() && round_[next_].count == 0) {
            ++next_;
        }
        return next_ < round_.size() ? &round_[next_] : nullptr;
    }
    void end_round() noexcept {
        round_.clear();
        next_ = 0;
    }
    void clear() noexcept {
        waiting_.clear();
        end_round();
    }

private:
    std::vector<run> waiting_;
    std::vector<run> round_;
    std::size_t next_ = 0;
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
