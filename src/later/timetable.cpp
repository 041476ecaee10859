// SPDX-License-Identifier: MIT
#include <courier/detail/later/timetable_core.hpp>

#include "later/due_times.hpp"

#include <courier/detail/base/in_use.hpp>
#include <courier/fault.hpp>
#include <courier/threads.hpp>

#include <algorithm>
#include <bit>
#include <optional>
#include <string>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

// So that the next `put()` of a time to come needs no memory.
void make_room_for_one(timetable_core& core) {
    if (core.free_pieces == nullptr) {
        core.free_pieces = new due_piece;
        core.free_pieces->next = nullptr;
    }
}

void push(timetable_core& core, due_piece*& bucket, const due_time& one) {
    if (bucket == nullptr || bucket->count == due_piece::room) {
        make_room_for_one(core);
        due_piece* const piece = std::exchange(core.free_pieces, core.free_pieces->next);
        piece->next = bucket;
        piece->count = 0;
        bucket = piece;
    }
    bucket->times[bucket->count++] = one;
}

void delete_all(due_piece* piece) noexcept {
    while (piece != nullptr) {
        delete std::exchange(piece, piece->next);
    }
}

// Nothing has changed when there is no memory.
[[gnu::always_inline]] inline void put(timetable_core& core, const due_time& one) {
    if (one.time <= core.now) {
        core.due.add(one);
    } else {
        push(core, core.buckets[static_cast<std::size_t>(std::bit_width(one.time ^ core.now))], one);
    }
}

// Moves what is in `bucket` to where it belongs now.
[[gnu::always_inline]] inline void sort_out(timetable_core& core, due_piece*& bucket) {
    while (due_piece* const piece = bucket) { // each has a place at any moment, should there be no memory
        for (; piece->count != 0; --piece->count) {
            put(core, piece->times[piece->count - 1]);
        }
        bucket = piece->next;
        piece->next = core.free_pieces;
        core.free_pieces = piece;
    }
}

bool is_stale(const timetable_core& core, const due_time& one) noexcept {
    return !is_waiting(core, one.place, one.stay);
}

// Whoever calls keeps the backlog as long as it is needed; its end may take a backlog
// with it, and its policy.
backlog_user free_timer(timetable_core& core, std::uint32_t place) noexcept {
    timer_entry& t = core.timers[place];
    t.waits = false;
    ++t.stay;
    t.next_free = core.first_free;
    core.first_free = place;
    --core.live;
    return std::move(t.backlog);
}

#if WIRED_COURIER_EXCEPTIONS
// Undoes that, when nothing has happened since.
void keep_timer(timetable_core& core, std::uint32_t place, backlog_user&& backlog) noexcept {
    timer_entry& t = core.timers[place];
    t.waits = true;
    --t.stay;
    core.first_free = t.next_free;
    ++core.live;
    t.backlog = std::move(backlog);
}
#endif

// Cancelled ones leave their times behind; when these outnumber the rest, all go at once.
void sweep(timetable_core& core) noexcept {
    if (core.stale <= 2 * core.live + 64) {
        return;
    }
    const auto stale = [&core](const due_time& one) { return is_stale(core, one); };
    const auto sweep_bucket = [&](due_piece*& bucket) {
        for (due_piece** at = &bucket; *at != nullptr;) {
            due_piece* const piece = *at;
            auto* const end = std::remove_if(piece->times, piece->times + piece->count, stale);
            piece->count = static_cast<std::uint32_t>(end - piece->times);
            if (piece->count != 0) {
                at = &piece->next;
                continue;
            }
            *at = piece->next;
            piece->next = core.free_pieces;
            core.free_pieces = piece;
        }
    };
    std::for_each(core.buckets.begin(), core.buckets.end(), sweep_bucket);
    sweep_bucket(core.unsorted);
    core.due.erase_if(stale);
    core.stale = 0;
}

// Makes `target` the present. A time in a bucket below that of the step has a
// zero where the target has a one, so it is due; one in that bucket may be.
void move_to(timetable_core& core, std::uint64_t target) {
    const auto step = static_cast<std::size_t>(std::bit_width(core.now ^ target));
    core.now = target;
    unless_done kept([&] { // without memory: what is left goes where it belongs the next time
        due_piece** end = &core.unsorted;
        for (std::size_t b = 1; b <= step; ++b) {
            while (*end != nullptr) {
                end = &(*end)->next;
            }
            *end = std::exchange(core.buckets[b], nullptr);
        }
    });
    for (std::size_t b = 1; b <= step; ++b) {
        if (core.buckets[b] != nullptr) {
            sort_out(core, core.buckets[b]);
        }
    }
    kept.done();
}

// The next one of a beat; null when that is beyond the end of time.
std::optional<std::uint64_t> next_beat(const timetable_core& core, const timer_entry& t, std::uint64_t time) noexcept {
    const auto interval = static_cast<std::uint64_t>(t.again.interval);
    const std::uint64_t beats = t.again.missed == missed_beats::once ? (core.now - time) / interval + 1 : 1;
    constexpr auto end = static_cast<std::uint64_t>(INT64_MAX);
    if (beats > (end - time) / interval) {
        return std::nullopt;
    }
    return time + beats * interval;
}

// Posts one that comes once. Without memory for it, it is due still.
void post_once(timetable_core& core, const due_time& one) {
    const std::uint32_t sleeper = core.timers[one.place].sleeper;
    core.due.take_first();
    backlog_user backlog = free_timer(core, one.place); // what is woken may make others
    backlog.get()->woke = false;
#if WIRED_COURIER_EXCEPTIONS
    try {
#endif
        backlog.get()->wake(sleeper, false);
#if WIRED_COURIER_EXCEPTIONS
    } catch (...) {
        if (!backlog.get()->woke) {
            keep_timer(core, one.place, std::move(backlog));
            core.due.put_back(one);
        }
        throw;
    }
#endif
}

// Posts a beat; false when something that moved to make room cancelled it.
bool post_beat(timetable_core& core, const due_time& one) {
    const backlog_user backlog = core.timers[one.place].backlog; // what is woken may end this timer
    backlog.get()->make_room_for_one();
    make_room_for_one(core);
    core.due.make_room_for_again();
    if (core.due.empty() || core.due.first().order != one.order || is_stale(core, one)) {
        return false; // its turn comes again
    }
    const timer_entry& t = core.timers[one.place];
    core.due.take_first();
    if (const auto next = next_beat(core, t, one.time); next) {
        const due_time again{*next, core.next_order++, one.place, one.stay};
        if (again.time <= core.now) {
            core.due.add_again(again);
        } else {
            put(core, again);
        }
    }
    backlog.get()->wake(t.sleeper, true);
    return true;
}

// Posts the first that is due; false when it was cancelled.
bool post_first_due(timetable_core& core) {
    const due_time one = core.due.first();
    if (is_stale(core, one)) {
        --core.stale;
        core.due.take_first();
        return false;
    }
    const timer_entry& t = core.timers[one.place];
    if (!t.backlog.open()) {
        const std::uint32_t sleeper = t.sleeper;
        core.due.take_first();
        const backlog_user backlog = free_timer(core, one.place);
        backlog.get()->forget(sleeper);
        return false;
    }
    if (t.again.interval != 0) {
        return post_beat(core, one);
    }
    post_once(core, one);
    return true;
}

} // namespace

timetable_core::~timetable_core() {
    for (due_piece* bucket : buckets) {
        delete_all(bucket);
    }
    delete_all(unsorted);
    delete_all(free_pieces);
}

namespace {

// Its payload is destroyed last, and may do anything to what is left.
void end_timer(timetable_core& core, std::uint32_t place) noexcept {
    const std::uint32_t sleeper = core.timers[place].sleeper;
    const backlog_user backlog = free_timer(core, place);
    backlog.get()->forget(sleeper);
}

} // namespace

namespace {

waiting_place::contents look_into_timetable(const void* whose) {
    return {static_cast<const timetable_core*>(whose)->live, {}};
}

} // namespace

timetable_core::timetable_core(std::string_view its_name)
    : name(its_name), place(name, waiting_kind::timetable, &look_into_timetable, this) {}

timetable_core* open_timetable(std::string_view name) {
    auto* const made = new timetable_core(name);
    made->thread = this_thread_number();
    return made;
}

void check_thread(const timetable_core& core, const char* what) {
    if (const std::uint32_t here = this_thread_number(); core.thread != here) {
        raise(fault_code::wrong_thread, severity::misuse,
              (core.name.empty() ? "a timetable" : "timetable '" + core.name + "'") + " belongs to " +
                  describe_thread(core.thread) + " and is " + what + " by " + describe_thread(here),
              "cross threads through an inbox", std::source_location{});
    }
}

void close_timetable(timetable_core& core) noexcept {
    core.closed = true;
    core.place.leave();
    for (std::uint32_t place = 0; place < core.timers.size(); ++place) {
        timer_entry& t = core.timers[place];
        if (t.waits) {
            end_timer(core, place);
        }
    }
    static_cast<void>(held<timetable_core>::taking_over(&core));
}

void release(timetable_core& core) noexcept {
    if (--core.refs == 0) {
        delete &core;
    }
}

namespace {

timer_place enter_timer(timetable_core& core, backlog_user& backlog, std::uint32_t sleeper, std::int64_t when,
                        repetition again) {
    if (core.first_free == timetable_core::none) {
        core.timers.emplace_back();
        core.timers.back().stay = 1; // so that an empty key matches none
        core.timers.back().next_free = timetable_core::none;
        core.first_free = static_cast<std::uint32_t>(core.timers.size() - 1);
    }
    const std::uint32_t place = core.first_free;
    timer_entry& t = core.timers[place];
    const due_time one{static_cast<std::uint64_t>(std::max<std::int64_t>(when, 0)), core.next_order, place, t.stay};
    if (core.advancing && one.time <= core.now) {
        push(core, core.unsorted, one); // for the next advance(), or this one might never end
    } else {
        put(core, one);
    }
    ++core.next_order;
    core.first_free = t.next_free;
    t.backlog = std::move(backlog);
    t.again = again;
    t.sleeper = sleeper;
    t.waits = true;
    if (core.live++ == 0) {
        core.place.note_frame();
    }
    return {place, t.stay};
}

} // namespace

timer_place add_timer(timetable_core& core, backlog_user& backlog, std::uint32_t sleeper, std::int64_t when,
                      repetition again) {
#if WIRED_COURIER_EXCEPTIONS
    try {
#endif
        if (core.closed) { // the payload's own move has ended it
            backlog.get()->forget(sleeper);
            return {0, 0};
        }
        return enter_timer(core, backlog, sleeper, when, again);
#if WIRED_COURIER_EXCEPTIONS
    } catch (...) {
        backlog.get()->forget(sleeper);
        throw;
    }
#endif
}

bool cancel(timetable_core& core, std::uint32_t place, std::uint32_t stay) noexcept {
    if (checked_build) {
        check_thread(core, "used to cancel");
    }
    if (!is_waiting(core, place, stay)) {
        return false;
    }
    const std::uint32_t sleeper = core.timers[place].sleeper;
    const backlog_user backlog = free_timer(core, place);
    ++core.stale;
    sweep(core);
    backlog.get()->forget(sleeper); // last, since what is destroyed may end the timetable
    return true;
}

bool is_waiting(const timetable_core& core, std::uint32_t place, std::uint32_t stay) noexcept {
    return place < core.timers.size() && core.timers[place].stay == stay && core.timers[place].waits;
}

std::size_t advance(timetable_core& core, std::int64_t step) {
    if (checked_build) {
        check_thread(core, "advanced");
    }
    core.place.note_call();
    if (core.paused || core.advancing) {
        return 0;
    }
    const held until_then(core); // what combines what is due may end it
    const while_true now(core.advancing);
    if (step > 0) {
        constexpr auto end = static_cast<std::uint64_t>(INT64_MAX) - 1; // `never` is not reached
        const std::uint64_t left = end - std::min(core.now, end);
        move_to(core, core.now + std::min(static_cast<std::uint64_t>(step), left));
    }
    if (core.unsorted != nullptr) [[unlikely]] {
        sort_out(core, core.unsorted);
    }
    core.due.put_in_order();
    std::size_t posted = 0;
    while (!core.due.empty()) {
        posted += post_first_due(core) ? 1U : 0U;
    }
    return posted;
}

bool repeats(std::int64_t interval, std::source_location where) {
    if (interval <= 0) {
        raise(fault_code::bad_interval, severity::refused, "an interval of " + std::to_string(interval) + " ns refused",
              "give an interval above zero", where);
    }
    return interval > 0;
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
