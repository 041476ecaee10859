#include "support.hpp"

using courier::channel;
using test::Dawn;
using test::Moored;

TEST_CASE("a witness collects what a channel carries, in order") {
    channel<Moored> moored{"harbour.moored"};
    moored.publish({.boat = 1, .cargo = 1}); // before the witness
    courier::witness witness{moored};
    CHECK(witness.empty());
    CHECK_THROWS_AS((void)witness.latest(), std::out_of_range);
    moored.publish({.boat = 2, .cargo = 20});
    moored.publish({.boat = 3, .cargo = 30});
    CHECK(witness.count() == 2);
    CHECK(witness.payloads()[0].boat == 2);
    CHECK(witness.latest().cargo == 30);
    witness.clear();
    CHECK(witness.count() == 0);
    CHECK(witness.payloads().empty());
}

TEST_CASE("a witness takes delivery options, and ends with its scope") {
    channel<Moored> moored{"harbour.moored"};
    {
        const courier::witness full{moored, {.condition = [](const Moored& m) { return m.cargo > 10; }}};
        const courier::witness once{moored, {.times = 1}};
        moored.publish({.boat = 1, .cargo = 5});
        moored.publish({.boat = 2, .cargo = 50});
        CHECK(full.count() == 1);
        CHECK(full.latest().boat == 2);
        CHECK(once.count() == 1);
    }
    CHECK(moored.size() == 0);
}

TEST_CASE("a witness counts payloads that cannot be copied, and outlives its channel") {
    struct Sealed {
        std::unique_ptr<int> number;
    };
    std::optional<channel<Sealed>> sealed{std::in_place, "harbour.sealed"};
    const courier::witness witness{*sealed};
    sealed->publish({std::make_unique<int>(3)});
    sealed.reset();
    CHECK(witness.count() == 1);
}

TEST_CASE("a witness collects the values of a formula") {
    courier::state<int> crates{"crates", 1};
    const courier::formula<int> twice{"twice", [&] { return crates.read() * 2; }};
    courier::witness seen{twice};
    crates.set(4);
    CHECK(seen.count() == 1);
    CHECK(seen.latest() == 8);
    seen.clear();
    CHECK(seen.empty());
}
