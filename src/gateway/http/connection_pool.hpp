// Threads for connections: as many as are needed, up to a bound.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>

#include <httplib.h>

#include <condition_variable>
#include <cstddef>
#include <functional>
#include <list>
#include <mutex>
#include <thread>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// What comes when all are busy is carried out at once by whoever hands it over, with
/// `is_full()` true, so that it can be turned away.
class connection_pool final : public httplib::TaskQueue {
public:
    explicit connection_pool(std::size_t most) : most_(most) {}
    connection_pool(const connection_pool&) = delete;
    connection_pool& operator=(const connection_pool&) = delete;
    ~connection_pool() override { shutdown(); }

    void enqueue(std::function<void()> task) override;
    void shutdown() override;

    /// Of the task that this thread carries out.
    [[nodiscard]] static bool is_full() noexcept;

private:
    void work();

    const std::size_t most_;
    std::mutex guard_;
    std::condition_variable news_;
    std::list<std::function<void()>> tasks_; ///< one for each idle thread at most
    std::vector<std::thread> threads_;
    std::size_t idle_ = 0;
    bool is_over_ = false;
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
