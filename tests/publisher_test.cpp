#include "support.hpp"

using courier::channel;
using courier::publisher;
using courier::subscriber;
using test::Dawn;
using test::Moored;

TEST_CASE("a publisher publishes on a channel that another owns") {
    channel<Moored> moored{"harbour.moored"};
    const publisher<Moored> barge{moored, "barge 3"};
    subscriber in{"logbook"};
    int landed = 0;
    in.subscribe(moored, [&](const Moored& m) { landed += m.cargo; });
    CHECK(barge.publish({.boat = 3, .cargo = 4}).served() == 1);
    CHECK(landed == 4);
    CHECK(barge.name() == "barge 3");
    CHECK(barge.connected());
}

TEST_CASE("contract 4: a publisher may outlive its channel") {
    std::optional<channel<Dawn>> dawn{std::in_place, "watch.dawn"};
    publisher<Dawn> watch{*dawn, "watch"};
    publisher<Dawn> second = watch;
    dawn.reset();
    CHECK_FALSE(watch.connected());
    CHECK(watch.publish().closed());
    CHECK(watch.publish().served() == 0);
    second = std::move(watch);
    CHECK_FALSE(second.connected());
    CHECK(second.name() == "watch");
}

TEST_CASE("a publisher that is not connected publishes nowhere") {
    const publisher<Dawn> nobody;
    CHECK(nobody.publish().closed());
    CHECK_FALSE(nobody.connected());
}
