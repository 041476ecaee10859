// Payloads from other threads; run under the thread sanitizer, too.
#include "support.hpp"

#include <courier/inbox.hpp>
#include <courier/outbox.hpp>
#include <courier/testing.hpp>

#include <doctest/doctest.h>

#include <array>
#include <atomic>
#include <condition_variable>
#include <memory>
#include <mutex>
#include <string>
#include <thread>
#include <vector>

using courier::channel;
using courier::inbox;
using courier::outbox;
using courier::sender;

namespace {

struct Flashed {
    int from = 0;
    int number = 0;
};

struct Hailed {
    using address = int;
    int order = 0;
};

std::atomic<long> alive{0};

/// Counted, and too large for a message.
struct Chart {
    explicit Chart(int n) : sheet(std::make_unique<int>(n)) { ++alive; }
    Chart(Chart&& other) noexcept : sheet(std::move(other.sheet)) { ++alive; }
    Chart& operator=(Chart&&) = default;
    ~Chart() { --alive; }
    std::unique_ptr<int> sheet;
    std::array<char, 100> margin{};
};

struct Note {
    std::string text;
};

struct scene {
    channel<Flashed> flashed{"flashed"};
    outbox later{"later"};
    inbox arrivals{later, "arrivals"};

    std::size_t step() {
        const std::size_t count = arrivals.take_in();
        later.deliver();
        return count;
    }
};

} // namespace

TEST_CASE("what another thread sends is delivered on the owner's, in the order of sending") {
    scene s;
    const auto owner = std::this_thread::get_id();
    std::vector<int> numbers;
    const courier::subscription in = s.flashed.subscribe([&](const Flashed& f) {
        CHECK(std::this_thread::get_id() == owner);
        numbers.push_back(f.number);
    });
    const sender<Flashed> out{s.arrivals, s.flashed};
    std::thread([out] {
        for (int i = 0; i < 1000; ++i) {
            out.send({.number = i});
        }
    }).join();
    CHECK(numbers.empty());
    CHECK(s.arrivals.waiting() == 1000);
    CHECK(s.step() == 1000);
    REQUIRE(numbers.size() == 1000);
    CHECK(std::is_sorted(numbers.begin(), numbers.end()));
    CHECK(s.step() == 0);
}

TEST_CASE("eight senders at once: first in first out for each, nothing lost") {
    constexpr int senders = 8;
    constexpr int each = 20000;
    scene s;
    std::array<int, senders> next{};
    bool in_order = true;
    const courier::subscription in = s.flashed.subscribe(
        [&](const Flashed& f) { in_order = in_order && next[static_cast<std::size_t>(f.from)]++ == f.number; });
    std::vector<std::thread> threads;
    for (int t = 0; t < senders; ++t) {
        threads.emplace_back([t, out = sender<Flashed>{s.arrivals, s.flashed}] {
            for (int i = 0; i < each; ++i) {
                out.send({.from = t, .number = i});
            }
        });
    }
    int arrived = 0;
    while (arrived < senders * each) {
        arrived += static_cast<int>(s.step());
    }
    for (std::thread& t : threads) {
        t.join();
    }
    CHECK(s.step() == 0);
    CHECK(in_order);
    CHECK(next == std::array<int, senders>{each, each, each, each, each, each, each, each});
}

TEST_CASE("the inbox ends while others still send, and senders outlive it") {
    for (int round = 0; round < 20; ++round) {
        auto s = std::make_unique<scene>();
        channel<Chart> charts{"charts"};
        std::vector<std::thread> threads;
        std::atomic<int> ready{0};
        for (int t = 0; t < 8; ++t) {
            threads.emplace_back([&ready, flashed = sender<Flashed>{s->arrivals, s->flashed},
                                  chart = sender<Chart>{s->arrivals, charts}] {
                ++ready;
                int i = 0;
                while (flashed.send({.number = i}) && chart.send(Chart{i})) {
                    ++i;
                }
                const sender<Chart> copy = chart; // of one that has ended
                CHECK_FALSE(copy.send(Chart{0}));
                CHECK_FALSE(copy.connected());
            });
        }
        while (ready < 8) {
            s->step();
        }
        s->step();
        s.reset();
        for (std::thread& t : threads) {
            t.join();
        }
    }
    CHECK(alive == 0);
}

TEST_CASE("payloads of any shape travel: moved only, large, with text, for an address") {
    scene s;
    channel<Chart> charts{"charts"};
    channel<Note> notes{"notes"};
    courier::addressed_channel<Hailed> hailed{"hailed"};
    int sum = 0;
    std::string text;
    const courier::subscription a = charts.subscribe([&](const Chart& c) { sum += *c.sheet; });
    const courier::subscription b = notes.subscribe([&](const Note& n) { text += n.text; });
    const courier::probe third{hailed.at(3)};
    std::thread([chart = sender<Chart>{s.arrivals, charts}, note = sender<Note>{s.arrivals, notes},
                 hail = courier::addressed_sender<Hailed>{s.arrivals, hailed}] {
        chart.send(Chart{7});
        note.send({"a text that is longer than what a string keeps within itself"});
        hail.send_to(3, {1});
        hail.send_to(4, {2});
        hail.send({3});
    }).join();
    CHECK(s.step() == 5);
    CHECK(sum == 7);
    CHECK(text.size() == 60);
    CHECK(third.count() == 2);
    CHECK(alive == 0);
    CHECK_FALSE(sender<Chart>{}.send(Chart{1}));
}

TEST_CASE("an inbox may be bounded, and a poster's policy holds for what arrives") {
    channel<Flashed> flashed{"flashed"};
    outbox later;
    inbox arrivals{later, "arrivals", {.most = 10}};
    const courier::poster<Flashed> latest{later, flashed, {.waiting = courier::keep::one}};
    const courier::probe seen{flashed};
    const sender<Flashed> out{arrivals, latest};
    int taken = 0;
    for (int i = 0; i < 15; ++i) {
        taken += out.send({.number = i}) ? 1 : 0;
    }
    CHECK(taken == 10);
    CHECK(arrivals.refused() == 5);
    arrivals.take_in();
    later.deliver();
    CHECK(seen.count() == 1);
    CHECK(seen.last().number == 9);
    CHECK(out.send({}));
}

TEST_CASE("a sleeping owner is woken once, and misses nothing") {
    channel<Flashed> flashed{"flashed"};
    outbox later;
    std::mutex guard;
    std::condition_variable bell;
    bool rung = false;
    std::atomic<int> times{0};
    inbox arrivals{later, "arrivals", {.wake = [&] {
                       ++times;
                       const std::lock_guard lock(guard);
                       rung = true;
                       bell.notify_one();
                   }}};
    int heard = 0;
    const courier::subscription in = flashed.subscribe([&] { ++heard; });
    const sender<Flashed> out{arrivals, flashed};
    CHECK(out.send({}));
    CHECK(times == 0); // the owner has not looked yet
    arrivals.take_in();
    constexpr int many = 20000;
    std::thread other([out] {
        for (int i = 0; i < many; ++i) {
            out.send({.number = i});
        }
    });
    while (heard < many + 1) {
        {
            std::unique_lock lock(guard);
            bell.wait(lock, [&] { return rung; });
            rung = false;
        }
        while (arrivals.take_in() != 0) {}
        later.deliver();
    }
    other.join();
    CHECK(heard == many + 1);
    CHECK(times >= 1);
    CHECK(times <= many);
}

TEST_CASE("channel and outbox may end before the inbox") {
    auto flashed = std::make_unique<channel<Flashed>>("flashed");
    auto later = std::make_unique<outbox>();
    inbox arrivals{*later};
    const sender<Flashed> out{arrivals, *flashed};
    out.send({});
    flashed.reset();
    arrivals.take_in();
    CHECK(later->deliver().delivered == 0);
    flashed = std::make_unique<channel<Flashed>>("flashed");
    const sender<Flashed> second{arrivals, *flashed};
    second.send({});
    later.reset();
    CHECK(arrivals.take_in() == 1);
}

TEST_CASE("senders come and go without leaving anything behind") {
    scene s;
    const courier::probe seen{s.flashed};
    for (int i = 0; i < 100; ++i) {
        std::thread([out = sender<Flashed>{s.arrivals, s.flashed}] { out.send({}); }).join();
        s.step();
    }
    CHECK(seen.count() == 100);
    CHECK(s.later.list().size() == 1);
}
