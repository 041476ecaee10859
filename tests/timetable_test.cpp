#include "support.hpp"

using courier::channel;
using courier::timer;
using courier::timetable;
using test::Moored;
using namespace std::chrono_literals;

namespace {

struct Hailed {
    using address = int;
    int order = 0;
};

struct scene {
    channel<Moored> moored{"moored"};
    courier::outbox later{"later"};
    timetable hours{later};
    test::trace order;
    courier::subscription in;

    scene() {
        in = moored.subscribe([this](const Moored& m) { order.push_back(m.boat); });
    }

    std::size_t step(courier::game_time by) {
        const std::size_t due = hours.advance(by);
        later.deliver();
        return due;
    }
};

} // namespace

TEST_CASE("a payload comes when its time has come, not before, and once") {
    scene s;
    s.hours.after(2s, s.moored, {.boat = 1}).release();
    s.hours.at(1s, s.moored, {.boat = 2}).release();
    CHECK(s.hours.waiting() == 2);
    s.step(999ms);
    CHECK(s.order.empty());
    CHECK(s.step(1ms) == 1);
    CHECK(s.order == test::trace{2});
    s.step(1s);
    CHECK(s.order == test::trace{2, 1});
    CHECK(s.hours.now() == 2s);
    s.step(1h);
    CHECK(s.order.size() == 2);
    CHECK(s.hours.waiting() == 0);
}

TEST_CASE("a timer owns its payload until it has come, and ends no later one") {
    scene s;
    timer first = s.hours.after(1s, s.moored, {.boat = 1});
    CHECK(first.live());
    first.end();
    CHECK_FALSE(first.live());
    timer second = s.hours.after(1s, s.moored, {.boat = 2}); // in the place of the first
    first = {};
    CHECK(second.live());
    s.step(1s);
    CHECK_FALSE(second.live());
    second = s.hours.at(3s, s.moored, {.boat = 3});
    second = s.hours.at(3s, s.moored, {.boat = 4}); // the end of the one before
    {
        timer released = s.hours.after(2s, s.moored, {.boat = 5});
        released.release();
        CHECK_FALSE(released.live());
    }
    timer().end();
    CHECK(s.hours.waiting() == 2);
    s.step(2s);
    CHECK(s.order == test::trace{2, 4, 5});
}

TEST_CASE("a beat comes at every interval, until it ends") {
    scene s;
    {
        const timer gulls = s.hours.every(1s, s.moored, {.boat = 1});
        CHECK(gulls.live());
        s.step(500ms);
        s.step(500ms);
        s.step(1s);
        CHECK(s.order.size() == 2);
    }
    s.step(5s);
    CHECK(s.order.size() == 2);
    CHECK(s.hours.waiting() == 0);
    const test::fault_catcher faults;
    CHECK_FALSE(s.hours.every(0s, s.moored, {}).live());
    CHECK(faults.told_once({"[courier.bad-interval]"}));
}

TEST_CASE("after a long frame every missed beat comes, in its place, or one for all") {
    scene s;
    const timer each = s.hours.every(2s, s.moored, {.boat = 2});
    const timer once = s.hours.every(3s, s.moored, {.boat = 3}, {.missed = courier::missed_beats::once});
    s.hours.after(5s, s.moored, {.boat = 5}).release();
    s.step(10s); // 2 4 6 8 10; 3 (for 6 and 9, too); 5
    CHECK(s.order == test::trace{2, 3, 2, 5, 2, 2, 2});
    s.order.clear();
    s.step(2s); // 12: both are in time
    CHECK(s.order == test::trace{3, 2});
}

TEST_CASE("paused time is paused delivery") {
    scene s;
    s.hours.after(1s, s.moored, {.boat = 1}).release();
    s.hours.pause();
    CHECK(s.step(5s) == 0);
    CHECK(s.hours.now() == 0s);
    s.hours.resume();
    s.step(1s);
    CHECK(s.order == test::trace{1});
}

TEST_CASE("timers go through posters with their policies, and to addresses") {
    scene s;
    const courier::poster<Moored> latest{s.later, s.moored, {.keep = courier::keep::one}};
    s.hours.after(1s, latest, {.boat = 1}).release();
    s.hours.after(1s, latest, {.boat = 2}).release();
    courier::addressed_channel<Hailed> hailed{"hailed"};
    test::trace heard;
    const courier::subscription h = hailed.at(3).subscribe([&](const Hailed& e) { heard.push_back(e.order); });
    const courier::addressed_poster<Hailed> hails{s.later, hailed};
    s.hours.after_to(1s, hails, 3, {7}).release();
    s.hours.after_to(1s, hails, 4, {8}).release();
    s.hours.after_to(1s, hailed, 3, {9}).release();
    s.hours.after(1s, hailed, {10}).release();
    const timer again = s.hours.every(1s, hails, {11});
    const timer third = s.hours.at_to(2s, hails, 3, {12});
    const timer each = s.hours.every_to(2s, hailed, 3, {13});
    const timer other = s.hours.every_to(1s, hails, 4, {14});
    s.step(1s);
    CHECK(s.order == test::trace{2});
    CHECK(heard == test::trace{7, 11, 9, 10});
    s.step(1s);
    CHECK(heard == test::trace{7, 11, 9, 10, 12, 11, 13});
}

TEST_CASE("what a merge function throws or asks for when a timer comes harms nothing") {
    scene s;
    bool fail = true;
    const courier::poster<Moored> sums{s.later, s.moored, {.combine = [&](Moored& kept, const Moored& newer) {
                                           for (int i = 0; i < 50; ++i) {
                                               s.hours.after(1h, s.moored, {}).release();
                                           }
                                           if (std::exchange(fail, false)) {
                                               throw std::runtime_error("no");
                                           }
                                           kept.boat += newer.boat;
                                       }}};
    for (int i = 1; i <= 3; ++i) {
        s.hours.after(1s, sums, {.boat = i}).release();
    }
    CHECK_THROWS_WITH(s.hours.advance(1s), "no");
    CHECK(s.step(0s) == 1);
    CHECK(s.order == test::trace{4}); // 2 was lost with the throw
    CHECK(s.hours.waiting() == 100);
}

TEST_CASE("everything a timer needs may end before it") {
    auto moored = std::make_unique<channel<Moored>>("moored");
    auto later = std::make_unique<courier::outbox>();
    auto hours = std::make_unique<timetable>(*later);
    timer gulls = hours->every(1s, *moored, {});
    hours->after(1s, *moored, {}).release();
    moored.reset();
    CHECK(hours->advance(1s) == 0);
    CHECK(hours->waiting() == 0);
    CHECK_FALSE(gulls.live());
    moored = std::make_unique<channel<Moored>>("moored");
    gulls = hours->every(1s, *moored, {});
    later.reset();
    CHECK(hours->advance(2s) == 0);
    CHECK(hours->waiting() == 0);
    hours.reset();
    CHECK_FALSE(gulls.live());
    gulls.end();
}

TEST_CASE("many timers come in exactly the order that a sort gives, some of them cancelled") {
    scene s;
    std::mt19937_64 random(5);
    struct expected {
        long long when;
        int number;
    };
    std::vector<expected> all;
    std::vector<timer> timers;
    long long now = 0;
    int made = 0;
    for (int frame = 0; frame < 400; ++frame) {
        for (int i = 0; i < 25; ++i) {
            const auto delay = static_cast<long long>(random() % (i % 5 == 0 ? 5000000000ULL : 100000000ULL));
            timers.push_back(s.hours.after(courier::game_time(delay), s.moored, {.boat = made}));
            all.push_back({now + delay, made++});
        }
        const auto gone = static_cast<std::size_t>(random() % timers.size());
        if (timers[gone].live()) {
            timers[gone].end();
            std::erase_if(all, [&](const expected& e) { return e.number == static_cast<int>(gone); });
        }
        const auto step = static_cast<long long>(random() % 33000000);
        now += step;
        s.step(courier::game_time(step));
    }
    s.step(10s);
    std::stable_sort(all.begin(), all.end(), [](const expected& a, const expected& b) { return a.when < b.when; });
    test::trace order;
    for (const expected& e : all) {
        order.push_back(e.number);
    }
    // A frame's timers may be younger than what fell due in it before; within the whole, times decide.
    CHECK(s.order.size() == order.size());
    CHECK(s.order == order);
    CHECK(s.hours.waiting() == 0);
}
