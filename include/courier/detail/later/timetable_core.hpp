// Times without what is due at them; compiled once.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/detail/later/backlog_user.hpp>
#include <courier/detail/later/waiting_places.hpp>
#include <courier/timer_options.hpp>

#include <array>
#include <cstddef>
#include <cstdint>
#include <source_location>
#include <string>
#include <string_view>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// One payload that waits, or that is posted again and again.
struct timer_entry {
    backlog_user backlog;
    repetition again;
    std::uint32_t sleeper = 0; ///< its place in the backlog
    std::uint32_t stay = 0;    ///< tells one user of this place from the next
    std::uint32_t next_free = 0;
    bool waits = false;
};

/// When it is due.
struct due_time {
    std::uint64_t time;
    std::uint64_t order; ///< for equal times
    std::uint32_t place; ///< of the timer
    std::uint32_t stay;  ///< no match: it was cancelled
};

/// A handful of times; all buckets are made of these and share those that are free.
struct due_piece {
    static constexpr std::uint32_t room = 63;
    due_piece* next;
    std::uint32_t count;
    due_time times[room];
};

/// Times that are due: those of this step in one order, from whose end they are taken, and beats that
/// have come again in the middle of it, as a heap.
class due_times {
public:
    [[nodiscard]] bool empty() const noexcept;
    [[nodiscard]] const due_time& first() const noexcept;
    void take_first() noexcept;
    /// At the beginning of a step, in any order, before `put_in_order()`.
    void add(const due_time& one);
    void put_in_order() noexcept;
    /// In the middle of one; needs no memory once there is room.
    void make_room_for_again();
    void add_again(const due_time& one);
    /// One that has just been taken, for which there is room still.
    void put_back(const due_time& one);
    template <class Test>
    void erase_if(Test test) noexcept;

private:
    [[nodiscard]] bool is_again_first() const noexcept;

    std::vector<due_time> in_order_; ///< the earliest last
    std::vector<due_time> again_;    ///< a heap, the earliest first
};

struct timetable_core {
    std::uint64_t now = 0;
    std::uint64_t next_order = 0;
    std::size_t live = 0;
    std::size_t stale = 0; ///< cancelled ones that are still in a bucket
    std::uint32_t refs = 1;
    std::uint32_t thread = 0; ///< that made it
    std::uint32_t first_free = none;
    bool paused = false;
    bool advancing = false;
    bool closed = false;
    std::vector<timer_entry> timers;
    std::array<due_piece*, 65> buckets{}; ///< by the highest bit in which a time differs from now
    due_piece* unsorted = nullptr;        ///< of buckets that the newest step has emptied
    due_piece* free_pieces = nullptr;
    due_times due;
    const std::string name;
    waiting_place place; ///< known to ledgers

    static constexpr std::uint32_t none = UINT32_MAX;

    explicit timetable_core(std::string_view its_name);
    timetable_core(const timetable_core&) = delete;
    timetable_core& operator=(const timetable_core&) = delete;
    ~timetable_core();
};

struct timer_place {
    std::uint32_t place;
    std::uint32_t stay;
};

timetable_core* open_timetable(std::string_view name);
void close_timetable(timetable_core& core) noexcept;
inline void retain(timetable_core& core) noexcept {
    ++core.refs;
}
void release(timetable_core& core) noexcept;

/// Takes `backlog`. When memory is full the sleeper is forgotten.
timer_place add_timer(timetable_core& core, backlog_user& backlog, std::uint32_t sleeper, std::int64_t when,
                      repetition again);
bool cancel(timetable_core& core, std::uint32_t place, std::uint32_t stay) noexcept;
[[nodiscard]] bool is_waiting(const timetable_core& core, std::uint32_t place, std::uint32_t stay) noexcept;
std::size_t advance(timetable_core& core, std::int64_t step);
/// Raises `wrong_thread` on a foreign one. Called in checked builds only.
void check_thread(const timetable_core& core, const char* what);
/// Whether an interval is above zero; raises `bad_interval` if not.
bool repeats(std::int64_t interval, std::source_location where);

} // namespace detail
WIRED_COURIER_NAMESPACE_END
