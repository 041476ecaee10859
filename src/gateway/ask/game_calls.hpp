// What comes from outside, on its way to the game's thread, and its answer on the way back.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/channel.hpp>
#include <courier/config.hpp>
#include <courier/gateway/gateway_options.hpp>
#include <courier/inbox.hpp>
#include <courier/inlet.hpp>
#include <courier/outbox.hpp>
#include <courier/subscription.hpp>

#include <condition_variable>
#include <cstdint>
#include <functional>
#include <memory>
#include <mutex>
#include <optional>
#include <type_traits>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// Work for the game's thread. Whoever asked may have stopped waiting; then it is not
/// done, unless it has begun.
struct game_call {
    enum class stage { waits, goes_on, done, given_up };
    std::function<void()> work; ///< refers to nothing of whoever waits
    stage now = stage::waits;
};

/// What the inbox carries.
struct game_errand {
    using courier_errand = void; ///< no ledger looks at it
    std::shared_ptr<game_call> call;
};

/// Where calls and those who wait for them meet; it stays for as long as one of them.
struct call_desk {
    std::mutex guard; ///< of all that follows, and of how far each call is
    std::condition_variable news;
    bool is_over = false;
    std::uint64_t done = 0;
};

class game_calls {
public:
    explicit game_calls(const gateway_options& options);
    game_calls(const game_calls&) = delete;
    game_calls& operator=(const game_calls&) = delete;

    /// From any thread but the game's: has `work` done there, and waits for what it
    /// returns. Empty when that did not come in time, or nobody will do it any more; it
    /// may be going on then, so that it must own what it uses. What it throws is lost.
    template <class Work>
    [[nodiscard]] auto ask(Work work) {
        using answer = std::invoke_result_t<Work&>;
        const auto result = std::make_shared<std::optional<answer>>();
        const bool is_done = wait_for([result, own = std::move(work)]() mutable { result->emplace(own()); });
        return is_done ? std::move(*result) : std::optional<answer>();
    }

    /// On the game's thread, in the middle of which everything may end.
    std::size_t take_in();
    /// Nobody waits any more.
    void close();

    [[nodiscard]] std::uint64_t carried_out() const;

private:
    [[nodiscard]] bool wait_for(std::function<void()> work);

    const gateway_options& options_;
    const std::shared_ptr<call_desk> desk_ = std::make_shared<call_desk>();
    outbox box_{"gateway"};
    inbox arrivals_;
    channel<game_errand> calls_{"gateway.calls"};
    inlet<game_errand> in_;
    subscription taken_;
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
