// SPDX-License-Identifier: MIT
#include "gateway/http/connection_pool.hpp"

#include <system_error>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {
thread_local bool full_here = false;
}

bool connection_pool::is_full() noexcept {
    return full_here;
}

void connection_pool::enqueue(std::function<void()> task) {
    {
        const std::lock_guard lock(guard_);
        if (idle_ > tasks_.size()) {
            tasks_.push_back(std::move(task));
            news_.notify_one();
            return;
        }
        if (threads_.size() < most_ && !is_over_) {
            try {
                threads_.emplace_back([this] { work(); });
                tasks_.push_back(std::move(task));
                return;
            } catch (const std::system_error&) { // NOLINT(bugprone-empty-catch): there are no more threads
            }
        }
    }
    full_here = true;
    task();
    full_here = false;
}

void connection_pool::work() {
    std::unique_lock lock(guard_);
    for (;;) {
        ++idle_;
        news_.wait(lock, [&] { return !tasks_.empty() || is_over_; });
        --idle_;
        if (tasks_.empty()) {
            return;
        }
        const std::function<void()> task = std::move(tasks_.front());
        tasks_.pop_front();
        lock.unlock();
        task();
        lock.lock();
    }
}

void connection_pool::shutdown() {
    {
        const std::lock_guard lock(guard_);
        is_over_ = true;
    }
    news_.notify_all();
    for (std::thread& one : threads_) {
        if (one.joinable()) {
            one.join();
        }
    }
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
