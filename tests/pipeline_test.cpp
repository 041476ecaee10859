#include "allocations.hpp"
#include "pipeline_scene.hpp"

#include <tuple>

using courier::channel;
using test::Moored;
using namespace std::chrono_literals;
using pipelines::boat;
using pipelines::even;
using pipelines::scene;

TEST_CASE("filter and transform, as often as one likes, with functions and data members") {
    scene s;
    s.hear(*s.port | courier::filter([](const Moored& m) { return m.boat > 1; }) | courier::transform(&Moored::cargo) |
           courier::transform([](int cargo) { return cargo + 1; }) | courier::filter([](int c) { return c != 31; }));
    s.publish({1, 2, 3, 4});
    CHECK(s.taken() == "21 41 ");
    CHECK(s.port->size() == 1);
}

TEST_CASE("a pipeline is a value: nothing is subscribed until it is, and each subscription has its own counters") {
    scene s;
    const auto first_two = *s.port | boat | courier::take(2);
    const auto copy = first_two; // NOLINT: that it can be copied
    CHECK(s.port->size() == 0);
    s.hear(first_two);
    s.publish({1});
    s.hear(copy);
    s.publish({2, 3, 4});
    CHECK(s.taken() == "1 2 2 3 ");
    CHECK(s.port->size() == 0);
}

TEST_CASE("what is small stays one word: no more room than a lambda that captures one pointer") {
    int sum = 0;
    const auto bytes_of = [](const auto& subscribe) {
        channel<Moored> moored{"moored"};
        courier::subscriber in;
        subscribe(in, moored);
        moored.publish({.boat = 3, .cargo = 4});
        return moored.bytes();
    };
    const std::size_t by_hand = bytes_of([&](courier::subscriber& in, const channel<Moored>& moored) {
        in.subscribe(moored, [&sum](const Moored& m) { sum += m.cargo; });
    });
    const std::size_t piped = bytes_of([&](courier::subscriber& in, const channel<Moored>& moored) {
        in.subscribe(moored | courier::filter([](const Moored& m) { return m.boat > 1; }) |
                         courier::transform([](const Moored& m) { return m.cargo; }),
                     [&sum](int cargo) { sum += cargo; });
    });
    CHECK(piped == by_hand);
    CHECK(sum == 8);
}

TEST_CASE("take ends the subscription just before the last call") {
    scene s;
    courier::subscription_key key;
    key = s.in->subscribe(*s.port | boat | courier::take(2), [&](int value) {
        s.note(value);
        CHECK(s.in->live(key) == (value == 1));
        if (value == 2) {
            s.publish({9}); // is not heard
        }
    });
    s.publish({1, 2, 3});
    CHECK(s.taken() == "1 2 ");
    s.hear(*s.port | courier::take(0));
    s.publish({4});
    CHECK(s.taken().empty());
    CHECK(s.in->size() == 0);
}

TEST_CASE("drop, drop while and take while") {
    scene s;
    s.hear(*s.port | boat | courier::drop(2));
    s.publish({1, 2, 3});
    CHECK(s.taken() == "3 ");
    s.in->clear();
    s.hear(*s.port | boat | courier::drop_while([](int value) { return value < 3; }));
    s.publish({1, 3, 1});
    CHECK(s.taken() == "3 1 ");
    s.in->clear();
    s.hear(*s.port | boat | courier::take_while([](int value) { return value < 3; }));
    s.publish({1, 2, 3, 1});
    CHECK(s.taken() == "1 2 ");
    CHECK(s.in->size() == 0);
}

TEST_CASE("only changes, of the whole or of what is looked at") {
    scene s;
    s.hear(*s.port | boat | courier::only_changes());
    s.hear(*s.port | courier::only_changes([](const Moored& m) { return m.boat / 10; }));
    s.publish({11, 11, 12, 25, 25});
    CHECK(s.taken() == "11 11 12 25 25 ");
}

TEST_CASE("accumulate, and the window of the last few") {
    scene s;
    s.hear(*s.port | boat | courier::accumulate(100, std::plus<>{}));
    s.publish({1, 2, 3});
    CHECK(s.taken() == "101 103 106 ");
    s.in->clear();
    s.hear(*s.port | boat | courier::slide(3));
    s.publish({1, 2, 3, 4, 5, 6, 7, 8});
    CHECK(s.taken() == "123 234 345 456 567 678 ");
}

TEST_CASE("delivery options look at the end of a pipeline") {
    scene s;
    s.hear(*s.port | boat | even, {.times = 2});
    s.hear(courier::merge(*s.port, *s.starboard) | boat,
           {.times = 1, .condition = [](int value) { return value == 6; }});
    s.publish({1, 2, 3, 4, 5, 6, 8});
    CHECK(s.taken() == "2 4 6 ");
    CHECK(s.in->size() == 0);
    bool open = false;
    s.hear(*s.port | boat, {.stage = courier::after(courier::ordinary, "late"), .during = [&] { return open; }});
    s.publish({1});
    open = true;
    s.publish({2});
    CHECK(s.taken() == "2 ");
}

TEST_CASE("a handler at the end may stop the others, where there is one source") {
    scene s;
    const courier::subscription first = (*s.port | boat).subscribe([](int value) {
        return value == 2 ? courier::verdict::stop : courier::verdict::go_on;
    });
    s.hear(*s.port);
    s.publish({1, 2, 3});
    CHECK(s.taken() == "1 3 ");
}

TEST_CASE("two that come in one round come one after the other") {
    scene s;
    s.hear(*s.port | boat | courier::beside(*s.starboard | boat));
    s.hear(courier::once_all(*s.port | boat, *s.starboard | boat) |
           courier::transform([](const std::tuple<int, int>& both) { return std::get<0>(both) + std::get<1>(both); }));
    s.later.post(*s.starboard, {.boat = 1});
    s.later.post(*s.port, {.boat = 2});
    s.later.post(*s.port, {.boat = 3});
    s.later.deliver();
    CHECK(s.taken() == "2+1 3 3+1 ");
}

TEST_CASE("what throws reaches the publisher, and the pipeline goes on") {
    scene s;
    s.in->subscribe(courier::merge(*s.port, *s.starboard) | boat, [&](int value) {
        s.note(value);
        throw std::runtime_error("squall");
    });
    CHECK_THROWS_WITH(s.publish({1}), "squall");
    CHECK_THROWS_WITH(s.publish({2}), "squall");
    CHECK(s.taken() == "1 2 ");
}

TEST_CASE("nothing is allocated once warm") {
    scene s;
    int sum = 0;
    const auto add = [&](const auto&...) { ++sum; };
    s.in->subscribe(*s.port | boat | even | courier::only_changes() | courier::accumulate(0, std::plus<>{}), add);
    s.in->subscribe(*s.port | boat | courier::slide(4), [&](std::span<const int>) { ++sum; });
    s.in->subscribe(courier::merge(*s.port, *s.starboard) | courier::beside(*s.starboard), add);
    s.in->subscribe(*s.port | boat | courier::quiet_for(s.hours, 1ms), add);
    s.in->subscribe(*s.port | boat | courier::at_most_every(s.hours, 1ms), add);
    const auto work = [&] {
        s.publish({1, 2, 3});
        s.starboard->publish({.boat = 4});
        s.pass(2ms);
    };
    for (int i = 0; i < 80; ++i) {
        work();
    }
    const test::counted allocations;
    for (int i = 0; i < 50; ++i) {
        work();
    }
    CHECK(allocations.since() == 0);
    CHECK(sum > 0);
}
