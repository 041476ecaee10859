#include "support.hpp"

#include <courier/channel.hpp>
#include <courier/testing.hpp>

#include <doctest/doctest.h>

#include <memory>
#include <optional>
#include <stdexcept>

using courier::channel;
using test::Dawn;
using test::Moored;

TEST_CASE("a probe collects what a channel carries, in order") {
    channel<Moored> moored{"harbour.moored"};
    moored.publish({.boat = 1, .cargo = 1}); // before the probe
    courier::probe probe{moored};
    CHECK(probe.empty());
    CHECK_THROWS_AS((void)probe.last(), std::out_of_range);
    moored.publish({.boat = 2, .cargo = 20});
    moored.publish({.boat = 3, .cargo = 30});
    CHECK(probe.count() == 2);
    CHECK(probe.payloads()[0].boat == 2);
    CHECK(probe.last().cargo == 30);
    probe.clear();
    CHECK(probe.count() == 0);
    CHECK(probe.payloads().empty());
}

TEST_CASE("a probe takes delivery options, and ends with its scope") {
    channel<Moored> moored{"harbour.moored"};
    {
        const courier::probe full{moored, {.condition = [](const Moored& m) { return m.cargo > 10; }}};
        const courier::probe once{moored, {.times = 1}};
        moored.publish({.boat = 1, .cargo = 5});
        moored.publish({.boat = 2, .cargo = 50});
        CHECK(full.count() == 1);
        CHECK(full.last().boat == 2);
        CHECK(once.count() == 1);
    }
    CHECK(moored.size() == 0);
}

TEST_CASE("a probe counts payloads that cannot be copied, and outlives its channel") {
    struct Sealed {
        std::unique_ptr<int> number;
    };
    std::optional<channel<Sealed>> sealed{std::in_place, "harbour.sealed"};
    const courier::probe probe{*sealed};
    sealed->publish({std::make_unique<int>(3)});
    sealed.reset();
    CHECK(probe.count() == 1);
}
