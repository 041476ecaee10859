#include <courier/detail/timetable_core.hpp>

#include <courier/fault.hpp>

#include <algorithm>
#include <bit>
#include <string>
#include <utility>

namespace courier::inline WIRED_COURIER_ABI::detail {

namespace {

bool later(const due_time& a, const due_time& b) noexcept {
    return a.time != b.time ? a.time > b.time : a.order > b.order;
}

void push(timetable_core& core, due_piece*& bucket, const due_time& one) {
    if (bucket == nullptr || bucket->count == due_piece::room) {
        due_piece* piece = core.free_pieces;
        if (piece != nullptr) {
            core.free_pieces = piece->next;
        } else {
            piece = new due_piece;
        }
        piece->next = bucket;
        piece->count = 0;
        bucket = piece;
    }
    bucket->times[bucket->count++] = one;
}

// Empties a bucket, whose times are handed to `visit`, and frees its pieces.
template <class Visit>
void take_all(timetable_core& core, due_piece*& bucket, Visit visit) {
    due_piece* piece = std::exchange(bucket, nullptr);
    while (piece != nullptr) {
        for (std::uint32_t i = 0; i < piece->count; ++i) {
            visit(piece->times[i]);
        }
        due_piece* const next = piece->next;
        piece->next = core.free_pieces;
        core.free_pieces = piece;
        piece = next;
    }
}

void delete_all(due_piece* piece) noexcept {
    while (piece != nullptr) {
        delete std::exchange(piece, piece->next);
    }
}

void put(timetable_core& core, const due_time& one) {
    if (one.time <= core.now) {
        core.due.push_back(one);
        std::push_heap(core.due.begin(), core.due.end(), later);
    } else {
        push(core, core.buckets[static_cast<std::size_t>(std::bit_width(one.time ^ core.now))], one);
    }
}

bool is_stale(const timetable_core& core, const due_time& one) noexcept {
    return !is_waiting(core, one.place, one.stay);
}

void free_timer(timetable_core& core, std::uint32_t place) noexcept {
    timer& t = core.timers[place];
    t.waits = false;
    ++t.stay;
    t.next_free = core.first_free;
    core.first_free = place;
    --core.live;
    const lane_user gone = std::move(t.lane); // last, as it may take a lane with it
}

// Cancelled ones leave their times behind; when these outnumber the rest, all go at once.
void sweep(timetable_core& core) noexcept {
    if (core.stale <= 2 * core.live + 64) {
        return;
    }
    const auto stale = [&core](const due_time& one) { return is_stale(core, one); };
    for (due_piece*& bucket : core.buckets) {
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
    }
    std::erase_if(core.due, stale);
    std::make_heap(core.due.begin(), core.due.end(), later);
    core.stale = 0;
}

// Makes `target` the present. A time in a bucket below that of the step has a
// zero where the target has a one, so it is due; one in that bucket may be.
void move_to(timetable_core& core, std::uint64_t target) {
    const auto step = static_cast<std::size_t>(std::bit_width(core.now ^ target));
    core.now = target;
    for (std::size_t b = 1; b <= step; ++b) {
        take_all(core, core.buckets[b], [&core](const due_time& one) { put(core, one); });
    }
}

/// Also when a merge function throws, or ends the timetable.
class advance_guard {
public:
    explicit advance_guard(timetable_core& core) noexcept : core_(core) {
        retain(core_);
        core_.advancing = true;
    }
    advance_guard(const advance_guard&) = delete;
    advance_guard& operator=(const advance_guard&) = delete;
    ~advance_guard() {
        core_.advancing = false;
        release(core_);
    }

private:
    timetable_core& core_;
};

// Posts one that is due; false when it was cancelled.
bool post_due(timetable_core& core, const due_time& one) {
    if (is_stale(core, one)) {
        --core.stale;
        return false;
    }
    const timer& t = core.timers[one.place];
    const lane_user lane = t.lane; // what is woken may end this timer, or make others
    const std::uint32_t sleeper = t.sleeper;
    if (!lane.open()) {
        free_timer(core, one.place);
        lane.get()->forget(sleeper);
        return false;
    }
    if (t.interval == 0) {
        free_timer(core, one.place);
        lane.get()->wake(sleeper, false);
        return true;
    }
    const auto interval = static_cast<std::uint64_t>(t.interval);
    const std::uint64_t beats = t.catches_up_once ? (core.now - one.time) / interval + 1 : 1;
    put(core, {one.time + beats * interval, core.next_order++, one.place, one.stay});
    lane.get()->wake(sleeper, true);
    return true;
}

} // namespace

timetable_core::~timetable_core() {
    for (due_piece* bucket : buckets) {
        delete_all(bucket);
    }
    delete_all(free_pieces);
}

timetable_core* open_timetable() {
    return new timetable_core;
}

void close_timetable(timetable_core& core) noexcept {
    for (std::uint32_t place = 0; place < core.timers.size(); ++place) {
        timer& t = core.timers[place];
        if (t.waits) {
            t.lane.get()->forget(t.sleeper);
            free_timer(core, place);
        }
    }
    release(core);
}

void release(timetable_core& core) noexcept {
    if (--core.refs == 0) {
        delete &core;
    }
}

timer_place add_timer(timetable_core& core, lane_user lane, std::uint32_t sleeper, std::int64_t when,
                      std::int64_t interval, bool catches_up_once) {
    if (core.first_free == timetable_core::none) {
        core.timers.emplace_back();
        core.timers.back().stay = 1; // so that an empty key matches none
        core.timers.back().next_free = timetable_core::none;
        core.first_free = static_cast<std::uint32_t>(core.timers.size() - 1);
    }
    const std::uint32_t place = core.first_free;
    timer& t = core.timers[place];
    core.first_free = t.next_free;
    t.lane = std::move(lane);
    t.interval = interval;
    t.sleeper = sleeper;
    t.catches_up_once = catches_up_once;
    t.waits = true;
    ++core.live;
    put(core, {static_cast<std::uint64_t>(std::max<std::int64_t>(when, 0)), core.next_order++, place, t.stay});
    return {place, t.stay};
}

bool cancel(timetable_core& core, std::uint32_t place, std::uint32_t stay) noexcept {
    if (!is_waiting(core, place, stay)) {
        return false;
    }
    timer& t = core.timers[place];
    t.lane.get()->forget(t.sleeper);
    free_timer(core, place);
    ++core.stale;
    sweep(core);
    return true;
}

bool is_waiting(const timetable_core& core, std::uint32_t place, std::uint32_t stay) noexcept {
    return place < core.timers.size() && core.timers[place].stay == stay && core.timers[place].waits;
}

std::size_t advance(timetable_core& core, std::int64_t step) {
    if (core.paused || core.advancing) {
        return 0;
    }
    const advance_guard guard(core);
    if (step > 0) {
        move_to(core, core.now + static_cast<std::uint64_t>(step));
    }
    std::size_t posted = 0;
    while (!core.due.empty()) {
        std::pop_heap(core.due.begin(), core.due.end(), later);
        const due_time one = core.due.back();
        core.due.pop_back();
        posted += post_due(core, one) ? 1U : 0U;
    }
    return posted;
}

void report_interval(std::int64_t interval, std::source_location where) {
    raise(fault_code::bad_interval, severity::refused,
          "an interval of " + std::to_string(interval) + " ns at " + place(where) +
              " refused: something that is posted again and again needs an interval above zero",
          where);
}

} // namespace courier::inline WIRED_COURIER_ABI::detail
