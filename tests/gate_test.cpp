#include "support.hpp"

#include <courier/channel.hpp>
#include <courier/gate.hpp>
#include <courier/subscriber.hpp>
#include <courier/testing.hpp>

#include <doctest/doctest.h>

#include <memory>

using courier::channel;
using test::Moored;

TEST_CASE("a gated subscription is served only while its gate is open") {
    channel<Moored> moored{"moored"};
    courier::gate storm_watch{"storm watch", false};
    CHECK(storm_watch.name() == "storm watch");
    const courier::probe crew{moored, {.during = storm_watch}};
    CHECK(moored.publish({}).served() == 0);
    storm_watch.open();
    CHECK(storm_watch.is_open());
    CHECK(moored.publish({}).served() == 1);
    storm_watch.close();
    moored.publish({});
    CHECK(crew.count() == 1);
}

TEST_CASE("a gate takes effect at once, and goes with other options") {
    channel<Moored> moored{"moored"};
    courier::gate open;
    int served = 0;
    int looked = 0;
    courier::subscriber in{"crew"};
    in.subscribe(moored, [&] { open.close(); });
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
    open.open();
    moored.publish({});
    moored.publish({});
    CHECK(served == 1);
}

TEST_CASE("a condition without a gate, and gates that end") {
    channel<Moored> moored{"moored"};
    bool dark = true;
    const courier::probe by_night{moored, {.during = [&dark] { return dark; }}};
    auto gate = std::make_unique<courier::gate>("watch");
    const courier::probe gated{moored, {.during = *gate}};
    moored.publish({});
    dark = false;
    moored.publish({});
    CHECK(by_night.count() == 1);
    CHECK(gated.count() == 2);
    gate.reset(); // stays closed
    moored.publish({});
    CHECK(gated.count() == 2);
}
