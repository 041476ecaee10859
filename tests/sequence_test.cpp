#include "allocations.hpp"
#include "sequence_scene.hpp"

#include <variant>

using courier::channel;
using courier::sequence;
using test::mark;
using test::Moored;
using test::scene;
using test::StoodTo;
using namespace std::chrono_literals;

namespace {

sequence<> each_boat(scene& s) {
    const mark gone{s, "gone"};
    for (;;) {
        s.note((co_await courier::next(*s.port)).boat);
    }
}

sequence<int> one_boat(scene& s) {
    const mark gone{s, "done"};
    co_return (co_await courier::next(*s.port)).boat;
}

sequence<int> fails(scene& s) {
    co_await courier::next(*s.port);
    throw std::runtime_error("squall");
}

/// For what is not to be a coroutine with captures.
template <class Body>
void start(scene& s, Body body) {
    s.in->start(body(s));
}

} // namespace

TEST_CASE("a sequence goes on in the middle of what it waits for, and hears nothing in between") {
    scene s;
    start(s, [](scene& own) -> sequence<> {
        own.note("begun");
        const Moored& first = co_await courier::next(*own.port);
        own.note(first.boat);
        own.publish(7); // not heard: nothing is waited for
        const auto second = co_await courier::next(*own.port, [](const Moored& m) { return m.boat > 2; });
        own.note(second.boat);
    });
    CHECK(s.taken() == "begun ");
    s.publish(1);
    CHECK(s.taken() == "1 ");
    const courier::receipt filtered = s.port->publish({.boat = 2});
    CHECK(filtered.served() == 0);
    s.publish(3);
    CHECK(s.taken() == "3 ");
    CHECK(s.in->size() == 0);
    CHECK(s.port->size() == 0);
    CHECK(courier::list_sequences().empty());
}

TEST_CASE("it ends with its subscriber, by its key, and by itself") {
    scene s;
    s.in->start(each_boat(s));
    const courier::subscription_key second = s.in->start(each_boat(s));
    s.publish(1);
    CHECK(s.in->end(second));
    CHECK(s.taken() == "1 1 gone ");
    s.in.reset();
    CHECK(s.taken() == "gone ");
    s.publish(2);
    CHECK(s.taken().empty());
    CHECK(s.port->size() == 0);
    { const sequence<> never_started = each_boat(s); }
    CHECK(s.taken().empty()); // it never came to its mark
}

TEST_CASE("it may end its owner and its channel, and is never resumed after that") {
    scene s;
    start(s, [](scene& own) -> sequence<> {
        const mark gone{own, "gone"};
        co_await courier::next(*own.port);
        own.in.reset();
        own.note("still here");
        co_await courier::next(*own.port);
        own.note("never");
    });
    s.publish(1);
    CHECK(s.taken() == "still here gone ");
    s.publish(2);
    CHECK(s.taken().empty());

    s.in = std::make_unique<courier::subscriber>("again");
    start(s, [](scene& own) -> sequence<> {
        co_await courier::next(*own.port);
        own.port.reset();
        own.note(co_await courier::within(own.hours, 1s, courier::next(own.starboard)) ? "came" : "time is up");
    });
    s.publish(3);
    s.pass(1s);
    CHECK(s.taken() == "time is up ");
}

TEST_CASE("times, states and addresses") {
    scene s;
    start(s, [](scene& own) -> sequence<> {
        co_await courier::elapsed(own.hours, 2s);
        own.note("two seconds");
        co_await courier::reached(own.hours, 5s);
        own.note("five");
        co_await courier::until([&] { return own.tide.read() > 2; });
        own.note("high");
        co_await courier::until([&] { return own.tide.read() > 2; });
        own.note((co_await courier::next(own.stood_to.at(3))).after);
        own.note((co_await courier::next(*own.port | courier::transform(&Moored::boat))) + 1);
        own.note((co_await courier::next(own.tide)).after());
    });
    s.pass(1s);
    s.pass(1s);
    CHECK(s.taken() == "two seconds ");
    s.pass(3s);
    s.tide.set(2);
    CHECK(s.taken() == "five ");
    s.tide.set(3);
    CHECK(s.taken() == "high ");
    s.stood_to.publish_to(4, {.after = 1});
    s.stood_to.publish_to(3, {.after = 2});
    s.publish(6);
    s.tide.set(9);
    CHECK(s.taken() == "2 7 9 ");
}

TEST_CASE("the first of several, with which one, and the others end") {
    scene s;
    start(s, [](scene& own) -> sequence<> {
        for (;;) {
            const auto first = co_await courier::when_any(courier::next(*own.port), courier::elapsed(own.hours, 1s),
                                                          courier::until([&] { return own.tide.read() == 7; }));
            own.note(static_cast<int>(first.index()));
            if (const Moored* m = std::get_if<0>(&first)) {
                own.note(m->boat);
            } else if (first.index() == 2) {
                co_return;
            }
        }
    });
    s.publish(5);
    s.pass(1s);
    CHECK(s.taken() == "0 5 1 ");
    CHECK(s.hours.waiting() == 1);
    s.tide.set(7);
    CHECK(s.taken() == "2 ");
    CHECK(s.hours.waiting() == 0);
    CHECK(s.port->size() == 0);
}

TEST_CASE("all of several, whose payloads are kept until the last") {
    scene s;
    start(s, [](scene& own) -> sequence<> {
        const auto [port, starboard, time] = co_await courier::when_all(
            courier::next(*own.port), courier::next(own.starboard), courier::elapsed(own.hours, 1s));
        own.note(port.boat);
        own.note(starboard.boat);
        static_cast<void>(time);
    });
    s.publish(1);
    s.publish(2);
    s.pass(1s);
    CHECK(s.taken().empty());
    s.starboard.publish({.boat = 3});
    CHECK(s.taken() == "1 3 ");
}

TEST_CASE("each member of a group, all or the first") {
    scene s;
    courier::group<int> crew{"crew"};
    const courier::membership two = crew.join(2);
    const courier::membership five = crew.join(5);
    courier::group<int> nobody{"nobody"};
    s.in->start([](scene& own, courier::group<int>& who, courier::group<int>& none) -> sequence<> {
        const auto wait_for = [&](int hand) { return courier::next(own.stood_to.at(hand)); };
        const auto all = co_await courier::all_in(who, wait_for);
        own.note("all " + std::to_string(all[0].after) + std::to_string(all[1].after));
        const auto [hand, first] = co_await courier::any_in(who, wait_for);
        own.note("first " + std::to_string(hand) + std::to_string(first.after));
        own.note(static_cast<int>((co_await courier::all_in(none, wait_for)).size()));
        co_await courier::any_in(none, wait_for);
        own.note("never");
    }(s, crew, nobody));
    s.stood_to.publish_to(5, {.after = 1});
    s.stood_to.publish_to(5, {.after = 2});
    s.stood_to.publish_to(2, {.after = 3});
    CHECK(s.taken() == "all 31 ");
    s.stood_to.publish_to(5, {.after = 4});
    CHECK(s.taken() == "first 54 0 ");
}

TEST_CASE("time limits, and something else when the first comes to nothing") {
    scene s;
    start(s, [](scene& own) -> sequence<> {
        const auto in_time = co_await courier::within(own.hours, 1s, courier::next(*own.port));
        own.note(in_time ? in_time->boat : -1);
        own.note(co_await courier::within(own.hours, 1s, courier::until([&] { return own.tide.read() == 1; })) ? 1 : 0);
        const int boat = co_await courier::or_else(
            courier::or_else(courier::within(own.hours, 1s, one_boat(own)),
                             [&] { return courier::within(own.hours, 1s, one_boat(own)); }),
            [](auto& from) {
                return [&from]() -> sequence<int> { co_return static_cast<int>(from.now() / 1s); };
            }(own.hours));
        own.note(boat);
        const int at_once =
            co_await courier::or_else(courier::within(own.hours, 1s, one_boat(own)), [&] { return one_boat(own); });
        own.note(at_once);
    });
    s.pass(1s);
    s.pass(1s);
    CHECK(s.taken() == "-1 0 ");
    s.pass(1s);
    s.pass(1s);
    CHECK(s.taken() == "done done 4 ");
    s.publish(8);
    CHECK(s.taken() == "done 8 ");
}

TEST_CASE("a sequence waits for another one, and gets what it returns or throws") {
    scene s;
    start(s, [](scene& own) -> sequence<> {
        own.note(co_await one_boat(own) * 10);
        try {
            own.note(co_await fails(own));
        } catch (const std::runtime_error& error) {
            own.note(error.what());
        }
        auto both = co_await courier::when_all(one_boat(own), one_boat(own));
        own.note(std::get<0>(both) + std::get<1>(both));
        auto first = co_await courier::when_any(courier::next(own.starboard), one_boat(own));
        own.note(static_cast<int>(first.index()));
        co_await fails(own);
    });
    s.publish(1);
    s.publish(2);
    CHECK(s.taken() == "done 10 squall ");
    s.publish(3);
    CHECK(s.taken() == "done done 6 ");
    s.starboard.publish({});
    CHECK(s.taken() == "done 0 ");
    CHECK_THROWS_WITH(s.publish(4), "squall"); // nobody caught it
    CHECK(s.in->size() == 0);
}

TEST_CASE("one that is running is not cut short when what it is part of is over") {
    scene s;
    start(s, [](scene& own) -> sequence<> {
        const auto first = co_await courier::when_any(
            [](scene& inner) -> sequence<> {
                const mark gone{inner, "gone"};
                co_await courier::next(*inner.port);
                inner.starboard.publish({.boat = 5}); // ends the other, and with it this one
                inner.note("to the next wait");
                co_await courier::next(*inner.port);
                inner.note("never");
            }(own),
            courier::next(own.starboard));
        own.note("then " + std::to_string(std::get<1>(first).boat));
    });
    s.publish(1);
    CHECK(s.taken() == "to the next wait gone then 5 ");
    CHECK(s.in->size() == 0);
}

TEST_CASE("while its subscriber is paused it hears nothing; what was over by then goes on afterwards") {
    scene s;
    s.in->start(each_boat(s));
    start(s, [](scene& own) -> sequence<> {
        co_await courier::elapsed(own.hours, 1s);
        own.note("a second");
        co_await courier::until([&] { return own.tide.read() == 3; });
        own.note("high");
    });
    s.in->pause();
    s.publish(1);
    s.pass(1s);
    s.in->start(each_boat(s)); // begins when resumed
    CHECK(s.taken().empty());
    s.in->resume();
    CHECK(s.taken() == "a second ");
    s.in->pause();
    s.tide.set(3);
    s.in->resume();
    CHECK(s.taken() == "high ");
    s.publish(2);
    CHECK(s.taken() == "2 2 ");
}

TEST_CASE("arrivals miss nothing while something else is waited for") {
    scene s;
    start(s, [](scene& own) -> sequence<> {
        courier::arrivals boats{*own.port};
        for (;;) {
            const Moored m = co_await boats.next();
            own.note(m.boat);
            co_await courier::elapsed(own.hours, 1s);
        }
    });
    s.publish(1);
    s.publish(2);
    s.publish(3);
    CHECK(s.taken() == "1 ");
    s.pass(1s);
    s.pass(1s);
    s.pass(1s);
    s.publish(4);
    CHECK(s.taken() == "2 3 4 ");
}

TEST_CASE("how many are waiting, and where and what for, can be seen") {
    scene s;
    s.in->start(each_boat(s));
    start(s, [](scene& own) -> sequence<> {
        co_await courier::when_any(one_boat(own), courier::elapsed(own.hours, 5s));
        own.port.reset();
        co_await courier::when_all(courier::next(own.starboard), courier::elapsed(own.hours, 5s));
    });
    std::vector<courier::sequence_report> all = courier::list_sequences();
    REQUIRE(all.size() == 2);
    CHECK(all[0].subscriber == "watch");
    CHECK(all[0].waits_for == "the next of 'port'");
    CHECK(test::contains(all[0].waits_at.file_name(), "sequence_test.cpp"));
    CHECK(all[0].waits_at.line() != all[0].started_at.line());
    CHECK(all[1].waits_for == "any of (the next of 'port', 5000 ms)");
    s.publish(1);
    all = courier::list_sequences();
    REQUIRE(all.size() == 2);
    CHECK(all[0].waits_for == "the next of a channel that is gone");
    CHECK(all[1].waits_for == "all of (the next of 'starboard', 5000 ms)");
    CHECK_FALSE(all[1].paused);
}

TEST_CASE("waiting in a loop allocates nothing once warm") {
    scene s;
    int sum = 0;
    s.in->start([](scene& own, int& total) -> sequence<> {
        for (;;) {
            total += (co_await courier::next(*own.port)).boat;
            const auto first =
                co_await courier::when_any(courier::next(own.starboard), courier::elapsed(own.hours, 1s));
            total += static_cast<int>(first.index());
            total += co_await one_boat(own);
        }
    }(s, sum));
    const auto work = [&] {
        s.publish(1);
        s.pass(1s);
        s.publish(2);
        s.log.clear();
    };
    for (int i = 0; i < 80; ++i) {
        work();
    }
    const test::counted allocations;
    for (int i = 0; i < 100; ++i) {
        work();
    }
    CHECK(allocations.since() == 0);
    CHECK(sum == 4 * 180);
}
