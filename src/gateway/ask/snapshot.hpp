// What the game's thread is asked for at most once in a while, however many want it.
// SPDX-License-Identifier: MIT
#pragma once

#include "gateway/ask/game_calls.hpp"

#include <courier/config.hpp>

#include <chrono>
#include <functional>
#include <memory>
#include <mutex>
#include <optional>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

template <class T>
class snapshot {
public:
    using source = std::function<T()>; ///< runs on the game's thread

    snapshot(game_calls& calls, std::chrono::milliseconds good_for, source from)
        : calls_(calls), good_for_(good_for), from_(std::move(from)) {}

    /// Null when the game does not answer. From any thread.
    [[nodiscard]] std::shared_ptr<const T> get() {
        const std::lock_guard lock(guard_); // all wait for the same one
        const auto now = std::chrono::steady_clock::now();
        if (latest_ == nullptr || now - since_ >= good_for_) {
            std::optional<T> next = calls_.ask([from = from_] { return from(); });
            if (!next) {
                return nullptr;
            }
            latest_ = std::make_shared<const T>(std::move(*next));
            since_ = std::chrono::steady_clock::now();
        }
        return latest_;
    }
    /// The next one who asks gets a new one.
    void forget() {
        const std::lock_guard lock(guard_);
        latest_.reset();
    }

private:
    game_calls& calls_;
    const std::chrono::milliseconds good_for_;
    const source from_;
    std::mutex guard_;
    std::shared_ptr<const T> latest_;
    std::chrono::steady_clock::time_point since_;
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
