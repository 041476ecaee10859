// What the library itself wants to be reminded of through an outbox: refreshers
// that are run once per round, and waits for a time.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/channel.hpp>
#include <courier/detail/base/in_use.hpp>
#include <courier/detail/later/outbox_core.hpp>
#include <courier/detail/later/timetable_core.hpp>

#include <cstdint>
#include <source_location>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// What travels. A number instead of a pointer, since whom it is for may be
/// gone when it comes.
struct errand {
    using courier_errand = void; ///< no ledger looks at it
    std::uint32_t place;
    std::uint32_t stay;
};

struct errand_target {
    void (*run)(void* who) = nullptr;
    void* who = nullptr;
    std::uint32_t stay = 0;
    post_mark mark; ///< what asked for it, where a ledger looks on
};

class errand_backlog;
struct reader_node;

/// One for each outbox, made when it is first needed, gone with the outbox.
class errand_desk {
public:
    explicit errand_desk(outbox_core& box);
    errand_desk(const errand_desk&) = delete;
    errand_desk& operator=(const errand_desk&) = delete;
    ~errand_desk();

    errand enroll(void (*what)(void*), void* who);
    void withdraw(errand which) noexcept;
    bool post(errand which) noexcept;
    [[nodiscard]] errand_backlog& backlog() const noexcept { return *backlog_; }
    [[nodiscard]] const errand_target& target(std::uint32_t place) const noexcept { return targets_[place]; }

    std::vector<reader_node*> refreshers; ///< that are to be run in the next round
    bool runs_refreshers = false;
    errand run_refreshers{}; ///< once that is so

private:
    void run(errand which);

    channel<errand> channel_{"outbox.wakes"};
    errand_backlog* backlog_;
    std::vector<errand_target> targets_;
    std::vector<std::uint32_t> free_;
    subscription in_;
};

/// The desk of an outbox, or null when that is closed.
errand_desk* desk_of(outbox_core& box);

/// Rings at a game time, once or again and again, in a round of the timetable's
/// outbox. Cancelled by its end. Timetable and outbox may end first; it never rings then.
class alarm {
public:
    alarm() noexcept = default;
    alarm(const alarm&) = delete;
    alarm& operator=(const alarm&) = delete;
    ~alarm() { cancel(); }

    /// `ring(who)` is called `delay` nanoseconds from now.
    void set(timetable_core& clock, outbox_core& box, std::int64_t delay, void (*ring)(void*), void* who);
    /// As `set()`, and stays: it rings again as `again` says, or when `ring_soon()` is called.
    void set_to_stay(timetable_core& clock, outbox_core& box, std::int64_t delay, repetition again, void (*ring)(void*),
                     void* who);
    /// Of one that is still set: rings in the next round. False without memory for that.
    bool ring_soon() noexcept;
    void cancel() noexcept;
    [[nodiscard]] bool is_set() const noexcept { return static_cast<bool>(box_); }

private:
    static void rung(void* self);

    held<timetable_core> hours_;
    held<outbox_core> box_;
    errand errand_{};
    timer_place timer_{};
    void (*ring_)(void*) = nullptr;
    void* who_ = nullptr;
    bool stays_ = false;
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
