// Calls that a subscriber is to make at their time.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/detail/base/owned.hpp>
#include <courier/detail/base/recycled.hpp>
#include <courier/detail/delivery/channel_core.hpp>
#include <courier/detail/later/errands.hpp>

#include <cstddef>
#include <cstdint>
#include <new>
#include <source_location>
#include <type_traits>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// One call, or one that is made again and again, without its function. Hangs on
/// a slot that its subscriber has, and goes with that.
class timed_call {
public:
    timed_call(const timed_call&) = delete;
    timed_call& operator=(const timed_call&) = delete;
    virtual ~timed_call() = default;
    static void* operator new(std::size_t size) { // NOLINT(misc-new-delete-overloads): it has one
        return take_block(size);
    }
    static void operator delete(void* block, std::size_t size) noexcept { give_block(block, size); }
    static void* operator new(std::size_t size, std::align_val_t align) { return ::operator new(size, align); }
    static void operator delete(void* block, std::size_t, std::align_val_t align) noexcept {
        ::operator delete(block, align);
    }

    void set(timetable_core& clock, outbox_core& box, std::int64_t delay, repetition again);

    // What its slot tells.
    static void end(timed_call& call) noexcept;
    static void told(timed_call& call, bool blocked) noexcept;

    slot* anchor = nullptr;

protected:
    timed_call() = default;

private:
    virtual void run() = 0;
    static void ring(void* self);
    void make();

    alarm bell_;
    bool repeats_ = false;
    bool paused_ = false;
    bool due_ = false; ///< it rang while paused
    bool running_ = false;
    bool ended_ = false; ///< while running
};

template <class Function>
class timed_call_of final : public timed_call {
public:
    explicit timed_call_of(Function&& function) : function_(std::move(function)) {}

private:
    void run() override { function_(); } // held by make()

    Function function_;
};

/// Hangs it on a slot of `owner`'s; null when that was refused.
slot* anchor_timed_call(owned<timed_call> call, timetable_core& clock, outbox_core& box, std::int64_t delay,
                        repetition again, std::source_location where, party* owner);

template <class Function>
owned<timed_call> make_timed_call(Function&& function) {
    using own = std::decay_t<Function>;
    return owned<timed_call>(new timed_call_of<own>(own(std::forward<Function>(function))));
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
