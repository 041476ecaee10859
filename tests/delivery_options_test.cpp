#include "support.hpp"

using courier::channel;
using courier::subscriber;
using courier::subscription;
using test::Dawn;
using test::Moored;

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

TEST_CASE("a condition that throws is treated as a handler that throws") {
    channel<Dawn> dawn{"watch.dawn"};
    int heard = 0;
    const subscription a =
        dawn.subscribe([&] { ++heard; }, {.condition = [](const Dawn&) -> bool { throw std::runtime_error("fog"); }});
    const subscription b = dawn.subscribe([&] { ++heard; });
    CHECK_THROWS_WITH_AS(dawn.publish(), "fog", std::runtime_error);
    CHECK(heard == 1);
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
