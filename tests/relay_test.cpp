#include "support.hpp"

using courier::channel;
using courier::relay;
using test::Moored;

namespace {

struct Landed {
    int crates;
};

struct sealed {
    sealed() = default;
    sealed(const sealed&) = delete;
    int value = 5;
};

} // namespace

TEST_CASE("a relay forwards payloads as they are, without copying them") {
    channel<sealed> from{"from"};
    channel<sealed> to{"to"};
    const sealed* seen = nullptr;
    const courier::subscription s = to.subscribe([&](const sealed& p) { seen = &p; });
    {
        const relay r{from, to};
        CHECK(r.live());
        const sealed payload;
        CHECK(from.publish(payload).served() == 1);
        CHECK(seen == &payload);
    }
    CHECK(from.publish(sealed{}).served() == 0);
}

TEST_CASE("a relay changes payloads, leaves some out, and stands in a stage") {
    channel<Moored> moored{"moored"};
    channel<Landed> landed{"landed"};
    const courier::witness seen{landed};
    const relay all{moored, landed, [](const Moored& m) { return Landed{m.cargo}; }};
    const relay some{moored,
                     landed,
                     [](const Moored& m) -> std::optional<Landed> {
                         return m.cargo > 10 ? std::optional{Landed{-m.cargo}} : std::nullopt;
                     },
                     {.stage = courier::before(courier::ordinary, "early")}};
    moored.publish({.boat = 1, .cargo = 20});
    moored.publish({.boat = 1, .cargo = 5});
    REQUIRE(seen.count() == 3);
    CHECK(seen.payloads()[0].crates == -20);
    CHECK(seen.payloads()[1].crates == 20);
    CHECK(seen.payloads()[2].crates == 5);
}

TEST_CASE("a relay goes from an address and to an address") {
    courier::addressed_channel<Moored, int> berths{"berths"};
    courier::addressed_channel<Landed, int> stores{"stores"};
    const courier::witness third{stores.at(3)};
    const courier::witness fourth{stores.at(4)};
    const relay r{berths.at(1), stores, [](const Moored& m) {
                      return courier::for_address<int, Landed>{m.boat, {m.cargo}};
                  }};
    berths.publish_to(1, {.boat = 3, .cargo = 30});
    berths.publish_to(2, {.boat = 3, .cargo = 30});
    CHECK(third.count() == 1);
    CHECK(fourth.empty());
}

TEST_CASE("a relay that would close a circle is refused, with the way around") {
    channel<Moored> a{"a"};
    channel<Moored> b{"b"};
    channel<Moored> c{"c"};
    const relay ab{a, b};
    relay bc{b, c};
    const relay also_ac{a, c}; // two ways to one place are no circle
    CHECK(also_ac.live());
    const test::fault_catcher faults;
    const relay ca{c, a};
    CHECK_FALSE(ca.live());
    CHECK(faults.told_once({"[courier.relay-circle]", "'c' -> 'a' -> ", "(relay_test.cpp:"}));
    const relay self{a, a};
    CHECK_FALSE(self.live());
    CHECK(faults.caught().size() == 2);
    CHECK(a.publish({}).served() == 2);
    bc.end();
    const relay now{c, b}; // b no longer leads to c
    CHECK(now.live());
}
