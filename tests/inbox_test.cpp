// Payloads from other threads; run under the thread sanitizer, too.
#include "support.hpp"

#include <courier/fault.hpp>
#include <courier/frame_driver.hpp>
#include <courier/inbox.hpp>
#include <courier/outbox.hpp>
#include <courier/testing.hpp>

#include <doctest/doctest.h>

#include <array>
#include <atomic>
#include <chrono>
#include <condition_variable>
#include <cstdint>
#include <memory>
#include <mutex>
#include <optional>
#include <stdexcept>
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

/// Its move may throw, and may send.
struct Heavy {
    explicit Heavy(int n, const sender<Flashed>* o = nullptr) : number(n), out(o) {}
    Heavy(Heavy&& other) : number(other.number), out(other.out) {
        if (number < 0 && --moves_left == 0) {
            throw std::runtime_error("too heavy");
        }
        if (out != nullptr) {
            out->send({.number = number});
        }
    }
    Heavy& operator=(Heavy&&) = default;
    int number;
    const sender<Flashed>* out;
    inline static int moves_left = 0;
};

struct scene {
    channel<Flashed> flashed{"flashed"};
    outbox later{"later"};
    inbox arrivals;

    explicit scene(courier::inbox_options options = {}) : arrivals(later, "arrivals", std::move(options)) {}
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
    constexpr int each = 8000; // all together fit into the default limit
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
    while (arrived < senders * each) { // as many as are sent, so it ends
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
    constexpr std::size_t bound = 2000;
    for (int round = 0; round < 20; ++round) {
        auto s = std::make_unique<scene>(courier::inbox_options{.limit = bound});
        channel<Chart> charts{"charts"};
        std::vector<std::thread> threads;
        std::atomic<int> ready{0};
        for (int t = 0; t < 8; ++t) {
            threads.emplace_back([&ready, flashed = sender<Flashed>{s->arrivals, s->flashed},
                                  chart = sender<Chart>{s->arrivals, charts}] {
                ++ready;
                for (int i = 0; flashed.connected(); ++i) { // refused or not
                    flashed.send({.number = i});
                    chart.send(Chart{i});
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
        CHECK(alive <= 2 * static_cast<long>(bound) + 8); // in the inbox and in the outbox, and those in hand
        s.reset();
        for (std::thread& t : threads) {
            t.join();
        }
    }
    CHECK(alive == 0);
}

TEST_CASE("what was sent to an inbox that has ended is destroyed with the sender's next try") {
    auto s = std::make_unique<scene>();
    channel<Chart> charts{"charts"};
    const sender<Chart> out{s->arrivals, charts};
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
    const sender<Flashed> out{s.arrivals, s.flashed};
    const courier::poster<Flashed> summed{
        s.later, s.flashed, {.waiting = courier::keep::one, .merge = [&](Flashed& kept, const Flashed& newer) {
                                 kept.number += newer.number;
                                 out.send({.number = 1}); // another for each
                             }}};
    const sender<Flashed> in{s.arrivals, summed};
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
        std::thread([t, out = sender<Flashed>{s.arrivals, s.flashed}] {
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
    const sender<Flashed> out{s.arrivals, s.flashed};
    for (int i = 0; i < 65536; ++i) {
        REQUIRE(out.send({.number = i}));
    }
    CHECK_FALSE(out.send({}));
    CHECK_FALSE(out.send({}));
    CHECK(s.arrivals.refused() == 2);
    CHECK(s.arrivals.waiting() == 65536);
    CHECK(s.step() == 65536);
    REQUIRE(courier::last_fault() != nullptr);
    CHECK(courier::id_of(courier::last_fault()->code) == "courier.inbox-full");
    CHECK(courier::last_fault()->level == courier::severity::notice);
    CHECK(courier::last_fault()->message ==
          "inbox 'arrivals' has refused 2 payloads, since 65536 were on their way; take in more often or more at a "
          "time, send less, or give it a higher limit");
    CHECK(out.send({}));

    inbox bottomless{s.later, "bottomless", {.limit = courier::unbounded}};
    const sender<Flashed> in{bottomless, s.flashed};
    for (int i = 0; i < 70000; ++i) {
        REQUIRE(in.send({.number = i}));
    }
    CHECK(bottomless.take_in() == 70000);
    CHECK(bottomless.refused() == 0);
}

TEST_CASE("many threads share a small bound: never more than it, and all of it for one after the other") {
    channel<Flashed> flashed{"flashed"};
    outbox later;
    inbox arrivals{later, "arrivals", {.limit = 100}};
    int sent = 0;
    for (int t = 0; t < 60; ++t) {
        std::thread([&, out = sender<Flashed>{arrivals, flashed}] {
            for (int i = 0; i < 3; ++i) {
                sent += out.send({.from = t, .number = i}) ? 1 : 0;
            }
        }).join();
    }
    CHECK(sent == 100); // what a thread had set aside goes back when it ends
    CHECK(arrivals.waiting() == 100);
    CHECK(arrivals.refused() == 80);
    CHECK(arrivals.take_in() == 100);
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
    inbox arrivals{later, "arrivals", {.limit = 10}};
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

TEST_CASE("payloads of any size and alignment lie side by side in a log") {
    struct alignas(32) Wide {
        std::array<std::uint64_t, 8> words{};
    };
    struct Sheet {
        std::array<unsigned char, 100000> bytes{};
    };
    scene s;
    channel<Wide> wide{"wide"};
    auto sheets = std::make_unique<channel<Sheet>>("sheets");
    bool aligned = true;
    std::uint64_t words = 0;
    std::size_t bytes = 0;
    const courier::subscription a = wide.subscribe([&](const Wide& w) {
        aligned = aligned && reinterpret_cast<std::uintptr_t>(&w) % 32 == 0;
        words += w.words[7];
    });
    const courier::subscription b = sheets->subscribe([&](const Sheet& one) { bytes += one.bytes[99999]; });
    const sender<Wide> wide_out{s.arrivals, wide};
    const sender<Sheet> sheet_out{s.arrivals, *sheets};
    const sender<Flashed> out{s.arrivals, s.flashed};
    const courier::probe seen{s.flashed};
    for (int round = 0; round < 3; ++round) {
        for (std::uint64_t i = 0; i < 100; ++i) {
            out.send({.number = static_cast<int>(i)});
            wide_out.send({{0, 0, 0, 0, 0, 0, 0, i}});
            if (i % 20 == 0) {
                auto sheet = std::make_unique<Sheet>();
                sheet->bytes[99999] = 1;
                sheet_out.send(*sheet);
            }
        }
        CHECK(s.step() == 205);
    }
    CHECK(aligned);
    CHECK(words == 3 * 4950);
    CHECK(bytes == 15);
    CHECK(seen.count() == 300);
}

TEST_CASE("a payload's move that throws has sent nothing; one that sends, too, sends both") {
    scene s;
    channel<Heavy> heavies{"heavies"};
    int sum = 0;
    const courier::subscription in = heavies.subscribe([&](const Heavy& h) { sum += h.number; });
    const courier::probe seen{s.flashed};
    const sender<Flashed> light{s.arrivals, s.flashed};
    const sender<Heavy> out{s.arrivals, heavies};
    out.send(Heavy{1});
    for (int moves = 1;; ++moves) {
        Heavy::moves_left = moves;
        try {
            out.send(Heavy{-1});
            break; // as many moves as it takes
        } catch (const std::runtime_error&) {
            CHECK(s.arrivals.waiting() == 1);
        }
    }
    Heavy::moves_left = 100;
    CHECK(s.step() == 2);
    CHECK(sum == 0);
    out.send(Heavy{5, &light});
    CHECK(s.step() >= 2);
    s.step();
    CHECK(sum == 5);
    CHECK(seen.count() >= 1);
}

TEST_CASE("sent by destructors of thread_local objects, after the thread's log has ended") {
    struct last_words {
        std::optional<sender<Flashed>> out;
        ~last_words() {
            for (int i = 0; out && i < 3; ++i) {
                out->send({.number = i});
            }
        }
    };
    scene s;
    const courier::probe seen{s.flashed};
    for (int round = 0; round < 10; ++round) {
        std::thread([out = sender<Flashed>{s.arrivals, s.flashed}] {
            thread_local last_words words; // made before the log is, so it ends after it
            words.out = out;
            words.out->send({.number = 7});
        }).join();
        CHECK(s.step() == 4);
    }
    CHECK(seen.count() == 40);
}

TEST_CASE("many inboxes on one thread, made and ended in any number") {
    channel<Flashed> flashed{"flashed"};
    outbox later;
    int heard = 0;
    const courier::subscription in = flashed.subscribe([&](const Flashed& f) { heard += f.number; });
    std::vector<std::unique_ptr<inbox>> inboxes;
    std::vector<sender<Flashed>> outs;
    for (int i = 0; i < 50; ++i) {
        inboxes.push_back(std::make_unique<inbox>(later));
        outs.emplace_back(*inboxes.back(), flashed);
    }
    for (int round = 0; round < 3; ++round) {
        for (const sender<Flashed>& out : outs) {
            out.send({.number = 1});
        }
    }
    for (int i = 0; i < 1000; ++i) {
        inbox brief{later};
        sender<Flashed>{brief, flashed}.send({.number = 100000});
    }
    for (const auto& one : inboxes) {
        CHECK(one->take_in() == 3);
    }
    later.deliver();
    CHECK(heard == 150);
}

TEST_CASE("the policy of a poster may end the inbox while it takes in") {
    auto s = std::make_unique<scene>();
    channel<Chart> charts{"charts"};
    std::unique_ptr<inbox> arrivals = std::make_unique<inbox>(s->later);
    const courier::poster<Chart> one{
        s->later, charts, {.waiting = courier::keep::one, .merge = [&](Chart&, const Chart&) {
                               CHECK(arrivals->take_in() == 0); // it is being done
                               arrivals.reset();
                           }}};
    const sender<Chart> out{*arrivals, one};
    for (int i = 0; i < 5; ++i) {
        out.send(Chart{i});
    }
    CHECK(arrivals->take_in() == 2);
    CHECK_FALSE(out.send(Chart{9}));
    CHECK(one.waiting() == 1);
    CHECK(alive == 1);
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
        threads.emplace_back([&, t, out = sender<Flashed>{arrivals, flashed}] {
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
        refused += report.refused;
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
    CHECK(arrivals.refused() == told_refused);
    int rounds = 0;
    while (frame.run(std::chrono::milliseconds(16)).delivered != 0) {
        ++rounds;
    }
    CHECK(rounds <= 2 * 20000 / static_cast<int>(frame_budget) + 4);
    for (std::size_t t = 0; t < newest.size(); ++t) {
        CHECK(newest[t] == newest_sent[t]); // nothing that was taken is lost
    }
}
