// SPDX-License-Identifier: MIT
#include <courier/detail/later/inbox_core.hpp>

#include <courier/detail/base/at_the_end.hpp>
#include <courier/fault.hpp>

#include <algorithm>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

/// Payloads of one thread between two looks at the budget and at the others.
constexpr std::size_t in_one_turn = 64;
/// How many a thread sets aside at most, so as not to ask for each.
constexpr std::size_t largest_portion = 256;

std::uint64_t next_number() noexcept {
    static std::atomic<std::uint64_t> newest{0};
    return ++newest;
}

/// Calls `step` for each log; `step` may not change the ring.
template <class Step>
void for_each_log(inbox_core& core, Step step) {
    if (core.newest_log == nullptr) {
        return;
    }
    sending_log* log = core.newest_log;
    do {
        log = log->next;
        step(*log);
    } while (log != core.newest_log);
}

// Those that came first become those that are read first.
void adopt_new_logs(inbox_core& core) noexcept {
    sending_log* newest_first = core.new_logs.exchange(nullptr, std::memory_order_seq_cst);
    sending_log* oldest_first = nullptr;
    while (newest_first != nullptr) {
        sending_log* const log = std::exchange(newest_first, newest_first->next);
        log->next = std::exchange(oldest_first, log);
    }
    while (oldest_first != nullptr) {
        sending_log* const log = std::exchange(oldest_first, oldest_first->next);
        if (core.newest_log == nullptr) {
            log->next = log;
        } else {
            log->next = std::exchange(core.newest_log->next, log);
        }
        core.newest_log = log;
    }
}

/// What is to be read, log by log, in a ring; and how many in all.
struct what_arrived {
    sending_log* last = nullptr;
    std::size_t count = 0;

    void add(sending_log& log) noexcept {
        if (last == nullptr) {
            log.next_active = &log;
        } else {
            log.next_active = std::exchange(last->next_active, &log);
        }
        last = &log;
        count += log.expected();
    }
};

// Also removes the logs of threads that have ended, once they are read.
what_arrived measure(inbox_core& core) noexcept {
    adopt_new_logs(core);
    what_arrived arrived;
    if (core.newest_log == nullptr) {
        return arrived;
    }
    sending_log* const end = core.newest_log;
    sending_log* before = end;
    for (bool more = true; more;) {
        sending_log* const log = before->next;
        more = log != end;
        if (log->measure() != 0) {
            arrived.add(*log);
        } else if (log->is_over()) {
            before->next = log->next;
            if (log == end) {
                core.newest_log = log == before ? nullptr : before;
            }
            delete log;
            continue;
        }
        before = log;
    }
    return arrived;
}

std::size_t read_some(inbox_core& core, sending_log& log, std::size_t most, first_failure& failed) {
    std::size_t count = 0;
    if (!log.begin_reading()) {
        return 0; // the inbox has ended, and the writer clears up
    }
    while (count < most && !core.closed.load(std::memory_order_relaxed)) {
        inbox_route& route = *log.read_at()->route();
        const std::size_t more = route.arrive(core, route, log, most - count, failed);
        if (more == 0) {
            break;
        }
        count += more;
    }
    log.end_reading();
    return count;
}

// In turns, beginning behind whoever was the last before.
std::size_t read_arrived(inbox_core& core, what_arrived arrived, const budget& most, first_failure& failed) {
    const std::size_t enough = std::min(arrived.count, most.payloads);
    const std::size_t at_once = enough == arrived.count && !most.spent ? arrived.count : in_one_turn;
    std::size_t sum = 0;
    while (sum < enough && !core.closed.load(std::memory_order_relaxed)) {
        bool spent = sum != 0 && most.spent;
        if (spent) {                                   // also when asking throws: what was read counts all the same
            failed.run([&] { spent = most.spent(); }); // held by inbox::take_in()
        }
        if (spent) {
            break;
        }
        sending_log& log = *arrived.last->next_active;
        const std::size_t count = std::min({at_once, enough - sum, static_cast<std::size_t>(log.expected())});
        const std::size_t read = read_some(core, log, count, failed);
        if (read == 0) {
            break; // there is no memory for more
        }
        sum += read;
        core.newest_log = &log; // so that the next one is the first the next time
        if (log.expected() == 0) {
            arrived.last->next_active = log.next_active;
        } else {
            arrived.last = &log;
        }
    }
    return sum;
}

void discard_all(sending_log& log) noexcept {
    if (!log.begin_reading()) {
        return;
    }
    for (std::uint64_t left = log.measure(); left != 0; --left) {
        log.read_at()->route()->discard(log);
    }
    log.end_reading();
}

// What is sent from now on, or just now, goes with the inlet's next try, or
// with the last inlet.
void clear_closed(inbox_core& core) noexcept {
    adopt_new_logs(core);
    for_each_log(core, [](sending_log& log) { discard_all(log); });
    for (const auto& route : core.routes) {
        route->backlog = {}; // here, on the thread of the outbox
    }
}

/// While the owner takes in, in whose middle the inbox may end.
class taking_guard {
public:
    explicit taking_guard(inbox_core& core) noexcept : core_(core) { core_.taking = true; }
    taking_guard(const taking_guard&) = delete;
    taking_guard& operator=(const taking_guard&) = delete;
    ~taking_guard() {
        core_.taking = false;
        if (core_.closed.load(std::memory_order_relaxed)) {
            clear_closed(core_);
        }
    }

private:
    inbox_core& core_;
};

void drop_routes(inbox_core& core) noexcept {
    if (!core.routes_left.exchange(false, std::memory_order_acquire)) {
        return;
    }
    bool some_wait = false;
    for (std::size_t i = core.routes.size(); i-- > 0;) {
        inbox_route& route = *core.routes[i];
        if (route.inlets.load(std::memory_order_acquire) != 0) {
            continue;
        }
        if (route.sent.load(std::memory_order_relaxed) != route.taken) {
            some_wait = true;
            continue;
        }
        const owned<inbox_route> gone = std::move(core.routes[i]);
        core.routes.erase(core.routes.begin() + static_cast<std::ptrdiff_t>(i));
    }
    if (some_wait) {
        core.routes_left.store(true, std::memory_order_relaxed);
    }
}

// Once for each time that it begins to refuse.
void report_refusals(inbox_core& core) {
    const std::uint64_t turned_away = core.turned_away.load(std::memory_order_relaxed);
    const std::uint64_t more = turned_away - std::exchange(core.told_turned_away, turned_away);
    const bool refuses = more != 0;
    if (std::exchange(core.was_refusing, refuses) || !refuses) {
        return;
    }
    raise(fault_code::inbox_full, severity::notice,
          "inbox '" + core.name + "' has turned away " + std::to_string(more) + (more == 1 ? " payload" : " payloads") +
              ", since " + std::to_string(core.limit) + " were on their way",
          "take in more often or more at a time, send less, or give it a higher limit", std::source_location{});
}

// Whoever sleeps after this is woken by what comes next, or is not to sleep.
void watch_for_more(inbox_core& core) noexcept {
    core.idle.store(true, std::memory_order_seq_cst);
    bool more = core.new_logs.load(std::memory_order_seq_cst) != nullptr;
    for_each_log(core, [&more](sending_log& log) { more = more || log.measure() != 0; });
    if (more) {
        wake_owner(core);
    }
}

} // namespace

waiting_place::contents inbox_core::look_into(const void* inbox) {
    return {waiting_in(*static_cast<inbox_core*>(const_cast<void*>(inbox))), {}}; // counting adopts new logs
}

inbox_core::inbox_core(std::string_view inbox_name, std::size_t bound, std::function<void()> hook)
    : number(next_number()), limit(bound), wake(std::move(hook)), wakes(wake != nullptr), name(inbox_name), room(bound),
      place(name, waiting_kind::inbox, &look_into, this) {}

inbox_core::~inbox_core() {
    adopt_new_logs(*this);
    for_each_log(*this, [](sending_log& log) { discard_all(log); });
    if (newest_log != nullptr) {
        sending_log* log = std::exchange(newest_log->next, nullptr);
        while (log != nullptr) {
            delete std::exchange(log, log->next);
        }
    }
}

shared<inbox_core> open_inbox(std::string_view name, std::size_t limit, std::function<void()> wake) {
    // In two pieces, since threads keep weak pointers to it for a while.
    return shared<inbox_core>(new inbox_core(name, limit, std::move(wake)));
}

void close_inbox(inbox_core& core) noexcept {
    core.place.leave(); // which looks at what waits; once it is closed, senders throw that away
    core.closed.store(true);
    if (!core.taking) { // else whoever takes in does it
        clear_closed(core);
    }
}

inbox_route& enter_route(inbox_core& core, owned<inbox_route> route) {
    core.routes.push_back(std::move(route));
    return *core.routes.back();
}

namespace {

// How many of the room that is left this thread gets; 0 when there is none.
std::size_t take_portion(inbox_core& core) noexcept {
    const std::size_t writers = core.writers.load(std::memory_order_relaxed) + 1;
    const std::size_t portion = std::clamp<std::size_t>(core.limit / (8 * writers), 1, largest_portion);
    std::size_t there = core.room.load(std::memory_order_relaxed);
    while (there != 0) {
        const std::size_t taken = std::min(there, portion);
        if (core.room.compare_exchange_weak(there, there - taken, std::memory_order_relaxed)) {
            return taken;
        }
    }
    return 0;
}

/// Leave to send so many payloads; goes back unless it is used.
class portion {
public:
    portion(inbox_core& core, bool for_one) noexcept
        : core_(core), count_(core.limit == unbounded ? unbounded : take_portion(core)) {
        if (for_one && count_ > 1) {
            give_back(count_ - 1);
            count_ = 1;
        }
    }
    portion(const portion&) = delete;
    portion& operator=(const portion&) = delete;
    ~portion() { give_back(count_); }

    [[nodiscard]] std::size_t count() const noexcept { return count_; }
    void use() noexcept { count_ = 0; }

private:
    void give_back(std::size_t count) noexcept {
        if (count != 0 && core_.limit != unbounded) {
            core_.room.fetch_add(count, std::memory_order_relaxed);
        }
    }

    inbox_core& core_;
    std::size_t count_;
};

} // namespace

sending_log* make_way(const shared<inbox_core>& of, std::size_t bytes) {
    inbox_core& core = *of;
    sending_log* log = find_log(core.number);
    if (core.closed.load(std::memory_order_acquire)) {
        if (log != nullptr) {
            const shared<inbox_core> kept = of; // NOLINT(performance-*): what is destroyed may be the inlet itself
            discard_all(*log);
        }
        return nullptr;
    }
    const bool for_one = log == nullptr ? thread_ends() : log->is_making();
    if (log != nullptr && !for_one && log->leave() != 0) {
        log->reserve(bytes);
        return log;
    }
    portion leave(core, for_one);
    if (leave.count() == 0) {
        core.turned_away.fetch_add(1, std::memory_order_relaxed);
        return nullptr;
    }
    if (log == nullptr || for_one) {
        log = &make_log(of, leave.count(), bytes, for_one);
    } else {
        log->reserve(bytes);
        log->grant(leave.count());
    }
    leave.use();
    return log;
}

void wake_owner(inbox_core& core) noexcept {
    if (core.idle.load(std::memory_order_seq_cst) && core.idle.exchange(false)) {
        at_the_end(core.name, [&core] { core.wake(); });
    }
}

std::size_t take_in(inbox_core& core, const budget& most) {
    if (core.taking || core.closed.load(std::memory_order_relaxed)) {
        return 0;
    }
    first_failure failed;
    std::size_t sum = 0;
    core.place.note_call();
    {
        const taking_guard guard(core);
        if (most.begin) {
            most.begin(); // held by inbox::take_in()
        }
        sum = read_arrived(core, measure(core), most, failed);
        if (core.limit != unbounded && sum != 0) {
            core.room.fetch_add(sum, std::memory_order_relaxed);
        }
        if (!core.closed.load(std::memory_order_relaxed)) {
            drop_routes(core);
            failed.run([&core] { report_refusals(core); });
            if (core.wakes) {
                watch_for_more(core);
            }
        }
    }
    failed.rethrow();
    return sum;
}

std::size_t waiting_in(inbox_core& core) noexcept {
    adopt_new_logs(core);
    std::uint64_t sum = 0;
    for_each_log(core, [&sum](sending_log& log) { sum += log.waiting(); });
    return static_cast<std::size_t>(sum);
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
