// SPDX-License-Identifier: MIT
#include "gateway/ask/game_calls.hpp"

#include <courier/detail/base/in_use.hpp>
#include <courier/from_outside.hpp>

#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

void carry_out(call_desk& desk, game_call& one) {
    {
        const std::lock_guard lock(desk.guard);
        if (one.now != game_call::stage::waits || desk.is_over) {
            return;
        }
        one.now = game_call::stage::goes_on;
    }
    {
        const from_outside now;
        if_memory_allows([&] { one.work(); });
    }
    {
        const std::lock_guard lock(desk.guard);
        one.now = game_call::stage::done;
        ++desk.done;
    }
    desk.news.notify_all();
}

} // namespace

game_calls::game_calls(const gateway_options& options)
    : options_(options), arrivals_(box_, "gateway", {.limit = 4 * options.max_connections + 64}),
      in_(arrivals_, calls_), taken_(calls_.subscribe([desk = desk_](const game_errand& one) {
          // What is called may be the end of all this.
          const std::shared_ptr<call_desk> own = desk; // NOLINT(performance-unnecessary-copy-initialization)
          const std::shared_ptr<game_call> call = one.call;
          carry_out(*own, *call);
      })) {}

bool game_calls::wait_for(std::function<void()> work) {
    const auto call = std::make_shared<game_call>();
    call->work = std::move(work);
    {
        const inlet<game_errand> own = in_; // one is not for two threads
        if (!own.send({call})) {
            return false;
        }
    }
    std::unique_lock lock(desk_->guard);
    desk_->news.wait_for(lock, options_.answer_time,
                         [&] { return call->now == game_call::stage::done || desk_->is_over; });
    if (call->now == game_call::stage::waits) {
        call->now = game_call::stage::given_up;
    }
    return call->now == game_call::stage::done;
}

std::size_t game_calls::take_in() {
    arrivals_.take_in();
    return box_.deliver({.payloads = options_.calls_per_frame}).delivered; // this may be gone
}

void game_calls::close() {
    {
        const std::lock_guard lock(desk_->guard);
        desk_->is_over = true;
    }
    desk_->news.notify_all();
}

std::uint64_t game_calls::carried_out() const {
    const std::lock_guard lock(desk_->guard);
    return desk_->done;
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
