// Payloads from other threads; run under the thread sanitizer, too.
#include "inbox_scene.hpp"

using namespace inbox_scene;

TEST_CASE("what another thread sends is delivered on the owner's, in the order of sending") {
    scene s;
    const auto owner = std::this_thread::get_id();
    std::vector<int> numbers;
    const courier::subscription in = s.flashed.subscribe([&](const Flashed& f) {
        CHECK(std::this_thread::get_id() == owner);
        numbers.push_back(f.number);
    });
    const inlet<Flashed> out{s.arrivals, s.flashed};
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

TEST_CASE("the inbox ends while others still send, and inlets outlive it") {
    constexpr std::size_t bound = 2000;
    for (int round = 0; round < 20; ++round) {
        auto s = std::make_unique<scene>(courier::inbox_options{.limit = bound});
        channel<Chart> charts{"charts"};
        std::vector<std::thread> threads;
        std::atomic<int> ready{0};
        for (int t = 0; t < 8; ++t) {
            threads.emplace_back(
                [&ready, flashed = inlet<Flashed>{s->arrivals, s->flashed}, chart = inlet<Chart>{s->arrivals, charts}] {
                    ++ready;
                    for (int i = 0; flashed.connected(); ++i) { // refused or not
                        flashed.send({.number = i});
                        chart.send(Chart{i});
                    }
                    const inlet<Chart> copy = chart; // of one that has ended
                    CHECK_FALSE(copy.send(Chart{0}));
                    CHECK_FALSE(copy.connected());
                });
        }
        while (ready < 8) {
            s->step();
        }
        s->step();
        CHECK(alive <= 2 * static_cast<long>(bound) + 8); // in the inbox and in the outbox, and those in hand
        s.reset();
        for (std::thread& t : threads) {
            t.join();
        }
    }
    CHECK(alive == 0);
}

TEST_CASE("what was sent to an inbox that has ended is destroyed with the inlet's next try") {
    auto s = std::make_unique<scene>();
    channel<Chart> charts{"charts"};
    const inlet<Chart> out{s->arrivals, charts};
    std::atomic<int> step{0};
    std::thread other([&] {
        out.send(Chart{1});
        ++step;
        while (step < 2) {
            std::this_thread::yield();
        }
        CHECK_FALSE(out.send(Chart{2}));
    });
    while (step < 1) {
        std::this_thread::yield();
    }
    CHECK(alive == 1);
    s.reset();
    CHECK(alive == 0);
    ++step;
    other.join();
    CHECK(alive == 0);
}

TEST_CASE("one that has arrived before is all that is taken in, however many come meanwhile") {
    scene s;
    const inlet<Flashed> out{s.arrivals, s.flashed};
    const courier::poster<Flashed> summed{
        s.later, s.flashed, {.keep = courier::keep::one, .combine = [&](Flashed& kept, const Flashed& newer) {
                                 kept.number += newer.number;
                                 out.send({.number = 1}); // another for each
                             }}};
    const inlet<Flashed> in{s.arrivals, summed};
    for (int i = 0; i < 10; ++i) {
        in.send({.number = 1});
    }
    CHECK(s.arrivals.take_in() == 10);
    CHECK(s.arrivals.waiting() == 9);
    CHECK(s.arrivals.take_in() == 9);
}

TEST_CASE("a budget is shared fairly between threads, and what is left comes first the next time") {
    constexpr int each = 1000;
    scene s;
    std::array<int, 3> heard{};
    bool in_order = true;
    const courier::subscription in = s.flashed.subscribe(
        [&](const Flashed& f) { in_order = in_order && f.number == heard[static_cast<std::size_t>(f.from)]++; });
    for (int t = 0; t < 3; ++t) {
        std::thread([t, out = inlet<Flashed>{s.arrivals, s.flashed}] {
            for (int i = 0; i < each; ++i) {
                out.send({.from = t, .number = i});
            }
        }).join();
    }
    CHECK(s.arrivals.take_in({.payloads = 192}) == 192);
    s.later.deliver();
    CHECK(heard == std::array<int, 3>{64, 64, 64});
    for (int i = 0; i < 3; ++i) {
        CHECK(s.arrivals.take_in({.payloads = 10}) == 10);
    }
    s.later.deliver();
    CHECK(heard == std::array<int, 3>{74, 74, 74});
    int asked = 0;
    CHECK(s.arrivals.take_in({.spent = [&] { return ++asked == 3; }}) == 192);
    int begun = 0;
    CHECK(s.arrivals.take_in({.spent = [] { return true; }, .begin = [&] { ++begun; }}) == 64);
    CHECK(begun == 1);
    CHECK_THROWS_WITH(s.arrivals.take_in({.spent = []() -> bool { throw std::runtime_error("no clock"); }}),
                      "no clock");
    CHECK(s.arrivals.waiting() == 3 * each - 192 - 30 - 192 - 64 - 64);
    while (s.arrivals.take_in({.payloads = 100}) != 0) {
        s.later.deliver();
    }
    CHECK(heard == std::array<int, 3>{each, each, each});
    CHECK(in_order);
}

TEST_CASE("an inbox has a bound unless it is said that it has none, and tells that it refuses") {
    scene s;
    const inlet<Flashed> out{s.arrivals, s.flashed};
    for (int i = 0; i < 65536; ++i) {
        REQUIRE(out.send({.number = i}));
    }
    CHECK_FALSE(out.send({}));
    CHECK_FALSE(out.send({}));
    CHECK(s.arrivals.turned_away() == 2);
    CHECK(s.arrivals.waiting() == 65536);
    CHECK(s.step() == 65536);
    REQUIRE(courier::last_fault() != nullptr);
    CHECK(courier::id_of(courier::last_fault()->code) == "courier.inbox-full");
    CHECK(courier::last_fault()->level == courier::severity::notice);
    CHECK(courier::last_fault()->text() ==
          "inbox 'arrivals' has turned away 2 payloads, since 65536 were on their way; take in more often or more at a "
          "time, send less, or give it a higher limit [courier.inbox-full]");
    CHECK(out.send({}));

    inbox bottomless{s.later, "bottomless", {.limit = courier::unbounded}};
    const inlet<Flashed> in{bottomless, s.flashed};
    for (int i = 0; i < 70000; ++i) {
        REQUIRE(in.send({.number = i}));
    }
    CHECK(bottomless.take_in() == 70000);
    CHECK(bottomless.turned_away() == 0);
}

TEST_CASE("many threads share a small bound: never more than it, and all of it for one after the other") {
    channel<Flashed> flashed{"flashed"};
    outbox later;
    inbox arrivals{later, "arrivals", {.limit = 100}};
    int sent = 0;
    for (int t = 0; t < 60; ++t) {
        std::thread([&, out = inlet<Flashed>{arrivals, flashed}] {
            for (int i = 0; i < 3; ++i) {
                sent += out.send({.from = t, .number = i}) ? 1 : 0;
            }
        }).join();
    }
    CHECK(sent == 100); // what a thread had set aside goes back when it ends
    CHECK(arrivals.waiting() == 100);
    CHECK(arrivals.turned_away() == 80);
    CHECK(arrivals.take_in() == 100);
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
    const inlet<Flashed> out{arrivals, flashed};
    CHECK(out.send({}));
    CHECK(times == 1); // the owner has not looked yet, and may sleep
    CHECK(out.send({}));
    CHECK(times == 1);
    arrivals.take_in({.payloads = 1});
    CHECK(times == 2); // something was left behind
    arrivals.take_in();
    constexpr int many = 20000;
    std::thread other([out] {
        for (int i = 0; i < many; ++i) {
            out.send({.number = i});
        }
    });
    while (heard < many + 2) {
        {
            std::unique_lock lock(guard);
            bell.wait(lock, [&] { return rung; });
            rung = false;
        }
        while (arrivals.take_in() != 0) {}
        later.deliver();
    }
    other.join();
    CHECK(heard == many + 2);
    CHECK(times >= 3);
    CHECK(times <= many + 2);
}

TEST_CASE("channel and outbox may end before the inbox") {
    auto flashed = std::make_unique<channel<Flashed>>("flashed");
    auto later = std::make_unique<outbox>();
    inbox arrivals{*later};
    const inlet<Flashed> out{arrivals, *flashed};
    out.send({});
    flashed.reset();
    arrivals.take_in();
    CHECK(later->deliver().delivered == 0);
    flashed = std::make_unique<channel<Flashed>>("flashed");
    const inlet<Flashed> second{arrivals, *flashed};
    second.send({});
    later.reset();
    CHECK(arrivals.take_in() == 1);
}

TEST_CASE("eight threads send without pause for two seconds, and no frame is longer than its budget") {
    constexpr std::size_t frame_budget = 500;
    channel<Flashed> flashed{"flashed"};
    outbox later{"later"};
    inbox arrivals{later, "arrivals", {.limit = 20000}};
    courier::frame_driver frame;
    frame.take_in(arrivals, {.payloads = 2 * frame_budget}).deliver(later, {.payloads = frame_budget});
    std::array<int, 8> newest{};
    std::array<std::atomic<int>, 8> newest_sent{}; // and taken
    bool in_order = true;
    const courier::subscription in = flashed.subscribe([&](const Flashed& f) {
        int& before = newest[static_cast<std::size_t>(f.from)];
        in_order = in_order && f.number > before;
        before = f.number;
    });
    std::atomic<bool> go_on{true};
    std::atomic<std::uint64_t> told_refused{0};
    std::vector<std::thread> threads;
    for (int t = 0; t < 8; ++t) {
        threads.emplace_back([&, t, out = inlet<Flashed>{arrivals, flashed}] {
            std::uint64_t refused = 0;
            for (int i = 1; go_on.load(std::memory_order_relaxed); ++i) {
                if (out.send({.from = t, .number = i})) {
                    newest_sent[static_cast<std::size_t>(t)] = i;
                } else {
                    ++refused;
                }
            }
            told_refused += refused;
        });
    }
    const auto end = std::chrono::steady_clock::now() + std::chrono::seconds(2);
    std::uint64_t frames = 0;
    std::uint64_t refused = 0;
    bool within = true;
    while (std::chrono::steady_clock::now() < end) {
        const courier::frame_report& report = frame.run(std::chrono::milliseconds(16));
        within = within && report.arrived <= 2 * frame_budget && report.delivered <= frame_budget &&
                 report.waiting <= 2 * frame_budget && arrivals.waiting() <= 20000;
        refused += report.turned_away;
        ++frames;
    }
    go_on = false;
    for (std::thread& t : threads) {
        t.join();
    }
    CHECK(within);
    CHECK(in_order);
    CHECK(frames > 10);
    CHECK(refused > 0);
    CHECK(refused <= told_refused);
    CHECK(arrivals.turned_away() == told_refused);
    int rounds = 0;
    while (frame.run(std::chrono::milliseconds(16)).delivered != 0) {
        ++rounds;
    }
    CHECK(rounds <= 2 * 20000 / static_cast<int>(frame_budget) + 4);
    for (std::size_t t = 0; t < newest.size(); ++t) {
        CHECK(newest[t] == newest_sent[t]); // nothing that was taken is lost
    }
}
