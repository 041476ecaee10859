#include "support.hpp"

using courier::channel;
using test::Moored;

TEST_CASE("a gated subscription is served only while its period is open") {
    channel<Moored> moored{"moored"};
    courier::period storm_watch{"storm watch", {.running = false}};
    CHECK(storm_watch.name() == "storm watch");
    const courier::witness crew{moored, {.during = storm_watch}};
    CHECK(moored.publish({}).served() == 0);
    storm_watch.begin();
    CHECK(storm_watch.running());
    CHECK(moored.publish({}).served() == 1);
    storm_watch.end();
    moored.publish({});
    CHECK(crew.count() == 1);
}

TEST_CASE("a period takes effect at once, and goes with other options") {
    channel<Moored> moored{"moored"};
    courier::period open;
    int served = 0;
    int looked = 0;
    courier::subscriber in{"crew"};
    in.subscribe(moored, [&] { open.end(); });
    in.subscribe(moored, [&] { ++served; },
                 {.times = 1,
                  .condition =
                      [&](const Moored& m) {
                          ++looked;
                          return m.boat == 3;
                      },
                  .during = open});
    CHECK(moored.publish({.boat = 3}).served() == 1); // closed by the first
    CHECK(looked == 0);
    CHECK(in.size() == 2); // what did not come does not count
    in.leave(moored);
    in.subscribe(moored, [&] { ++served; }, {.times = 1, .during = open});
    open.begin();
    moored.publish({});
    moored.publish({});
    CHECK(served == 1);
}

TEST_CASE("a condition without a period, and periods that end") {
    channel<Moored> moored{"moored"};
    bool dark = true;
    const courier::witness by_night{moored, {.during = [&dark] { return dark; }}};
    auto period = std::make_unique<courier::period>("watch");
    const courier::witness gated{moored, {.during = *period}};
    moored.publish({});
    dark = false;
    moored.publish({});
    CHECK(by_night.count() == 1);
    CHECK(gated.count() == 2);
    period.reset(); // stays closed
    moored.publish({});
    CHECK(gated.count() == 2);
}

TEST_CASE("a subscription is live while a state or formula is true") {
    courier::channel<test::Dawn> dawn{"dawn"};
    auto fog = std::make_unique<courier::state<bool>>("fog", false);
    courier::state<int> tide{"tide", 0};
    const courier::formula<bool> high{"high", [&] { return tide.read() > 2; }};
    int in_fog = 0;
    int at_high = 0;
    courier::subscriber in{"horn"};
    in.subscribe(dawn, [&] { ++in_fog; }, {.during = *fog});
    in.subscribe(dawn, [&] { ++at_high; }, {.during = high});
    CHECK(dawn.publish().served() == 0);
    fog->set(true);
    tide.set(3);
    CHECK(dawn.publish().served() == 2);
    fog.reset(); // gone: never again
    CHECK(dawn.publish().served() == 1);
    CHECK(in_fog == 1);
    CHECK(at_high == 2);
}
