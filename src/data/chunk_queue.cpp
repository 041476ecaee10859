// SPDX-License-Identifier: MIT
#include "data/chunk_queue.hpp"

#include <courier/detail/base/in_use.hpp>

#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

bool chunk_queue::give(chunk& full, bool wait) {
    std::unique_lock lock(guard_);
    if (waiting_ + full.size() > most_ && waiting_ != 0) {
        if (!wait) {
            return false;
        }
        room_.wait(lock, [&] { return waiting_ == 0 || waiting_ + full.size() <= most_; });
    }
    const std::size_t size = full.size();
    queue_.push_back(std::move(full)); // or nothing has changed
    waiting_ += size;
    if (!spare_.empty()) {
        full = std::move(spare_.back());
        spare_.pop_back();
    } else {
        full = {};
    }
    full.clear();
    if_memory_allows([&] { full.reserve(usual_chunk + usual_chunk / 4); });
    lock.unlock();
    something_.notify_one();
    return true;
}

bool chunk_queue::take(chunk& next) {
    std::unique_lock lock(guard_);
    something_.wait(lock, [&] { return !queue_.empty() || ending_; });
    if (queue_.empty()) {
        return false;
    }
    next = std::move(queue_.front());
    queue_.pop_front();
    return true;
}

bool chunk_queue::take_now(chunk& next) {
    const std::lock_guard lock(guard_);
    if (queue_.empty()) {
        return false;
    }
    next = std::move(queue_.front());
    queue_.pop_front();
    return true;
}

void chunk_queue::done(chunk&& written) {
    const std::lock_guard lock(guard_);
    waiting_ -= written.size();
    if (spare_.size() < 4) {
        if_memory_allows([&] { spare_.push_back(std::move(written)); });
    }
    room_.notify_all();
}

void chunk_queue::wait_until_done() {
    std::unique_lock lock(guard_);
    room_.wait(lock, [&] { return waiting_ == 0; });
}

std::size_t chunk_queue::waiting() const {
    const std::lock_guard lock(guard_);
    return waiting_;
}

void chunk_queue::end() {
    {
        const std::lock_guard lock(guard_);
        ending_ = true;
    }
    something_.notify_one();
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
