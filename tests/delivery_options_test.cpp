#include "support.hpp"

#include <courier/channel.hpp>
#include <courier/subscriber.hpp>

#include <doctest/doctest.h>

#include <array>
#include <stdexcept>

using courier::channel;
using courier::subscriber;
using courier::subscription;
using test::Dawn;
using test::Moored;

TEST_CASE("a subscription served once ends by itself") {
    channel<Dawn> dawn{"watch.dawn"};
    int heard = 0;
    const subscription s = dawn.subscribe([&] { ++heard; }, {.times = 1});
    CHECK(s.live());
    CHECK(dawn.publish().served() == 1);
    CHECK_FALSE(s.live());
    CHECK(dawn.publish().served() == 0);
    CHECK(heard == 1);
}

TEST_CASE("a subscription served n times ends after the n-th") {
    channel<Dawn> dawn{"watch.dawn"};
    subscriber in{"bell"};
    int heard = 0;
    in.subscribe(dawn, [&heard, pad = std::array<char, 60>{}] { heard += 1 + pad[0]; }, {.times = 3});
    for (int i = 0; i < 5; ++i) {
        dawn.publish();
    }
    CHECK(heard == 3);
    CHECK(in.size() == 0);
}

TEST_CASE("a one-shot handler that publishes on its channel is not called again") {
    channel<Dawn> dawn{"watch.dawn"};
    int heard = 0;
    subscription s = dawn.subscribe(
        [&] {
            ++heard;
            dawn.publish();
            CHECK_FALSE(s.live());
        },
        {.times = 1});
    dawn.publish();
    CHECK(heard == 1);
}

TEST_CASE("a condition decides for every payload, and counts nothing that it keeps out") {
    channel<Moored> moored{"harbour.moored"};
    test::trace boats;
    const subscription s = moored.subscribe([&](const Moored& m) { boats.push_back(m.boat); },
                                            {.times = 2, .condition = [](const Moored& m) { return m.cargo > 10; }});
    CHECK(moored.publish({.boat = 1, .cargo = 5}).served() == 0);
    CHECK(moored.publish({.boat = 2, .cargo = 15}).served() == 1);
    CHECK(moored.publish({.boat = 3, .cargo = 1}).served() == 0);
    CHECK(moored.publish({.boat = 4, .cargo = 11}).served() == 1);
    CHECK(moored.publish({.boat = 5, .cargo = 99}).served() == 0);
    CHECK(boats == test::trace{2, 4});
}

TEST_CASE("a condition with a large state, and one that changes its state") {
    channel<Moored> moored{"harbour.moored"};
    int heard = 0;
    const subscription every_other =
        moored.subscribe([&] { ++heard; }, {.condition = [n = 0, pad = std::array<int, 32>{}](const Moored&) mutable {
                             return ++n % 2 == 0 && pad[3] == 0;
                         }});
    for (int i = 0; i < 10; ++i) {
        moored.publish({});
    }
    CHECK(heard == 5);
}

TEST_CASE("a condition may end its own subscription, or pause it") {
    channel<Dawn> dawn{"watch.dawn"};
    int heard = 0;
    subscription ends;
    subscription pauses;
    ends = dawn.subscribe([&] { ++heard; }, {.condition = [&](const Dawn&) {
                              ends.end();
                              return true;
                          }});
    pauses = dawn.subscribe([&] { ++heard; }, {.condition = [&](const Dawn&) {
                                pauses.pause();
                                return true;
                            }});
    CHECK(dawn.publish().served() == 0);
    CHECK(heard == 0);
    CHECK_FALSE(ends.live());
    pauses.resume();
    CHECK(pauses.live());
}

TEST_CASE("a condition that throws is treated as a handler that throws") {
    channel<Dawn> dawn{"watch.dawn"};
    int heard = 0;
    const subscription a =
        dawn.subscribe([&] { ++heard; }, {.condition = [](const Dawn&) -> bool { throw std::runtime_error("fog"); }});
    const subscription b = dawn.subscribe([&] { ++heard; });
    CHECK_THROWS_WITH_AS(dawn.publish(), "fog", std::runtime_error);
    CHECK(heard == 1);
}

TEST_CASE("options work together with pausing") {
    channel<Dawn> dawn{"watch.dawn"};
    int heard = 0;
    subscription s = dawn.subscribe([&] { ++heard; }, {.times = 2});
    s.pause();
    CHECK(dawn.publish().served() == 0);
    s.resume();
    dawn.publish();
    dawn.publish();
    dawn.publish();
    CHECK(heard == 2);
}
