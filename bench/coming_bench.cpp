// What comes and goes all the time: timers, owners of subscriptions, waits of sequences.
#include "baselines.hpp"
#include "paired.hpp"
#include "registrations.hpp"

#include <courier/channel.hpp>
#include <courier/outbox.hpp>
#include <courier/sequence.hpp>
#include <courier/subscriber.hpp>
#include <courier/timetable.hpp>
#include <courier/wait.hpp>

#include <algorithm>
#include <array>
#include <chrono>
#include <coroutine>
#include <cstddef>
#include <cstdint>
#include <exception>
#include <functional>
#include <memory>
#include <utility>
#include <vector>

namespace bench {

namespace {

using namespace std::chrono_literals;

/// Calls by their time in a heap, each of which can be cancelled by its number.
struct heap_timers {
    struct call {
        std::uint64_t time;
        std::uint64_t number;
        std::function<void()> what;
        bool operator<(const call& other) const {
            return std::pair(time, number) > std::pair(other.time, other.number);
        }
    };

    std::vector<call> heap;
    std::vector<std::uint64_t> cancelled;
    std::uint64_t now = 0;
    std::uint64_t next = 0;

    std::uint64_t after(std::uint64_t delay, std::function<void()> what) {
        heap.push_back({now + delay, next, std::move(what)});
        std::push_heap(heap.begin(), heap.end());
        return next++;
    }
    void advance(std::uint64_t step) {
        now += step;
        while (!heap.empty() && heap.front().time <= now) {
            std::pop_heap(heap.begin(), heap.end());
            const call due = std::move(heap.back());
            heap.pop_back();
            if (cancelled.empty() || std::find(cancelled.begin(), cancelled.end(), due.number) == cancelled.end()) {
                due.what();
            }
        }
    }
};

constexpr int pending = 500;
constexpr int due_at_once = 50;

/// A frame in which fifty calls come, among five hundred that wait for long.
struct heap_timer_side {
    heap_timers clock;
    long rung = 0;

    heap_timer_side() {
        for (int i = 0; i < pending; ++i) {
            clock.after(1'000'000'000'000'000 + static_cast<std::uint64_t>(i), [this] { ++rung; });
        }
    }
    void operator()() {
        for (int i = 0; i < due_at_once; ++i) {
            clock.after(10'000'000, [this] { ++rung; });
        }
        clock.advance(16'000'000);
        barrier();
    }
};

struct timetable_side {
    courier::outbox box{"frame"};
    courier::timetable clock{box};
    long rung = 0;
    courier::subscriber in{"bells"};

    timetable_side() {
        for (int i = 0; i < pending; ++i) {
            in.after(clock, 1'000'000s + std::chrono::nanoseconds(i), [this] { ++rung; });
        }
    }
    void operator()() {
        for (int i = 0; i < due_at_once; ++i) {
            in.after(clock, 10ms, [this] { ++rung; });
        }
        clock.advance(16ms);
        box.deliver();
        barrier();
    }
};

/// An event whose listeners are known by number.
struct numbered_event {
    std::vector<std::pair<std::uint64_t, std::function<void(const Bitten&)>>> all;
    std::uint64_t next = 1;

    std::uint64_t add(std::function<void(const Bitten&)> what) {
        all.emplace_back(next, std::move(what));
        return next++;
    }
    void remove(std::uint64_t number) {
        const auto found =
            std::find_if(all.begin(), all.end(), [number](const auto& one) { return one.first == number; });
        if (found != all.end()) {
            all.erase(found);
        }
    }
};

struct numbered_owner_side {
    std::array<numbered_event, 4> events;
    Barge barge;

    void operator()() {
        std::vector<std::pair<numbered_event*, std::uint64_t>> owned;
        for (numbered_event& one : events) {
            owned.emplace_back(&one, one.add([this](const Bitten& e) { barge.on_bitten(e); }));
        }
        barrier();
        for (const auto& [event, number] : owned) {
            event->remove(number);
        }
    }
};

struct subscriber_side {
    courier::channel<Bitten> first{"first"};
    courier::channel<Bitten> second{"second"};
    courier::channel<Bitten> third{"third"};
    courier::channel<Bitten> fourth{"fourth"};
    Barge barge;

    void operator()() {
        courier::subscriber in;
        const auto handler = [this](const Bitten& e) { barge.on_bitten(e); };
        in.subscribe(first, handler);
        in.subscribe(second, handler);
        in.subscribe(third, handler);
        in.subscribe(fourth, handler);
        barrier();
    }
};

/// A coroutine that nobody owns but itself.
struct plain_story {
    struct promise_type {
        plain_story get_return_object() { return {std::coroutine_handle<promise_type>::from_promise(*this)}; }
        std::suspend_never initial_suspend() noexcept { return {}; }
        std::suspend_always final_suspend() noexcept { return {}; }
        void return_void() {}
        void unhandled_exception() { std::terminate(); }
    };
    std::coroutine_handle<promise_type> handle;
};

/// An event that coroutines wait for.
struct awaited_event {
    struct waiter {
        awaited_event& of;
        const Bitten* come = nullptr;
        std::coroutine_handle<> handle;
        [[nodiscard]] bool await_ready() const noexcept { return false; }
        void await_suspend(std::coroutine_handle<> who) {
            handle = who;
            of.waiting.push_back(this);
        }
        const Bitten& await_resume() const noexcept { return *come; }
    };

    std::vector<waiter*> waiting;
    std::vector<waiter*> now;

    waiter operator co_await() { return {*this, nullptr, {}}; }
    void publish(const Bitten& what) {
        now.swap(waiting);
        for (waiter* const one : now) {
            one->come = &what;
            one->handle.resume();
        }
        now.clear();
    }
};

struct awaited_side {
    awaited_event first;
    awaited_event second;
    Barge barge;
    plain_story story = tell();

    plain_story tell() {
        for (;;) {
            const Bitten& a = co_await first;
            barge.on_bitten(a);
            const Bitten& b = co_await second;
            barge.on_bitten(b);
        }
    }
    ~awaited_side() { story.handle.destroy(); }
    awaited_side() = default;
    awaited_side(const awaited_side&) = delete;
    awaited_side& operator=(const awaited_side&) = delete;

    void operator()() {
        first.publish({.barge = 1, .crates = 2});
        barrier();
        second.publish({.barge = 2, .crates = 2});
        barrier();
    }
};

struct sequence_side {
    courier::channel<Bitten> first{"first"};
    courier::channel<Bitten> second{"second"};
    Barge barge;
    courier::subscriber in{"story"};

    sequence_side() { in.start(tell()); }
    courier::sequence<> tell() {
        for (;;) {
            const Bitten& a = co_await courier::next(first);
            barge.on_bitten(a);
            const Bitten& b = co_await courier::next(second);
            barge.on_bitten(b);
        }
    }
    void operator()() {
        first.publish({.barge = 1, .crates = 2});
        barrier();
        second.publish({.barge = 2, .crates = 2});
        barrier();
    }
};

/// Both sides where they are, since they do not move.
template <class Hand, class Ours>
struct kept {
    std::unique_ptr<Hand> hand = std::make_unique<Hand>();
    std::unique_ptr<Ours> own = std::make_unique<Ours>();
    Hand& baseline = *hand;
    Ours& ours = *own;
};

} // namespace

void register_coming() {
    compare("timers/heap of std::functions/500", 20,
            [] { return std::make_unique<kept<heap_timer_side, timetable_side>>(); });
    compare("owner of four/four vectors of std::functions", 500,
            [] { return std::make_unique<kept<numbered_owner_side, subscriber_side>>(); });
    compare("two waits in turn/awaiter lists", 500,
            [] { return std::make_unique<kept<awaited_side, sequence_side>>(); });
}

} // namespace bench
