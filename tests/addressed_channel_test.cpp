#include "support.hpp"

namespace {

struct Bitten {
    using address = int;
    int crates = 0;
};

/// An id as games have them; no hash, no comparison.
struct entity {
    unsigned index;
    unsigned generation;
};

using bitten_channel = courier::addressed_channel<Bitten>;

struct scene {
    bitten_channel bitten{"barges.bitten"};
    courier::subscriber in{"barges"};
    test::trace order;

    void note(int number) { order.push_back(number); }
    void at(int address, int number, courier::delivery_options<Bitten> options = {}) {
        in.subscribe(
            bitten.at(address), [this, number] { note(number); }, std::move(options));
    }
    void to_all(int number, courier::delivery_options<Bitten> options = {}) {
        in.subscribe(
            bitten, [this, number] { note(number); }, std::move(options));
    }
};

} // namespace

TEST_CASE("an address where nobody is subscribed shows in the receipt and is counted") {
    scene s;
    CHECK(s.bitten.publish_to(3, {}).vacant());
    s.to_all(99);
    const int line = __LINE__ + 1;
    const courier::receipt r = s.bitten.publish_to(7, {});
    CHECK(r.vacant());
    CHECK(r.served() == 1); // who listens to all hears it
    CHECK(s.bitten.vacant_publishes() == 2);
    CHECK(s.bitten.last_vacant().line() == line);
    CHECK_FALSE(s.bitten.publish({}).vacant());
}

TEST_CASE("any type can be an address") {
    SUBCASE("an id without padding, compared by its bytes") {
        courier::addressed_channel<test::Moored, entity> moored{"m"};
        courier::witness here{moored.at({.index = 3, .generation = 1})};
        moored.publish_to({.index = 3, .generation = 2}, {});
        CHECK(here.empty());
        moored.publish_to({.index = 3, .generation = 1}, {});
        CHECK(here.count() == 1);
    }
    SUBCASE("a text") {
        courier::addressed_channel<test::Moored, std::string> moored{"m"};
        std::vector<std::unique_ptr<courier::witness<test::Moored>>> berths;
        for (int i = 0; i < 200; ++i) {
            berths.push_back(std::make_unique<courier::witness<test::Moored>>(
                moored.at("berth number " + std::to_string(i) + " of the north quay")));
        }
        courier::witness again{moored.at("berth number 7 of the north quay")};
        CHECK(moored.publish_to("berth number 7 of the north quay", {.boat = 7}).served() == 2);
        CHECK(berths[7]->latest().boat == 7);
        berths[7].reset();
        CHECK(moored.publish_to("berth number 7 of the north quay", {.boat = 8}).served() == 1);
        CHECK(moored.publish_to("berth 7", {}).vacant());
        berths.clear();
        CHECK(moored.addresses() == 1);
        CHECK(again.latest().boat == 8);
    }
    SUBCASE("a number that a hash would lose, and negative ones") {
        courier::addressed_channel<test::Moored, long long> moored{"m"};
        courier::witness low{moored.at(0)};
        courier::witness high{moored.at(1LL << 62)};
        courier::witness below{moored.at(-1)};
        moored.publish_to(1LL << 62, {});
        moored.publish_to(-1, {});
        CHECK(low.empty());
        CHECK(high.count() == 1);
        CHECK(below.count() == 1);
    }
}

TEST_CASE("nested publishes to addresses are refused past the depth limit") {
    scene s;
    int calls = 0;
    courier::receipt last;
    s.in.subscribe(s.bitten.at(1), [&] {
        ++calls;
        last = s.bitten.publish_to(1, {});
    });
    courier::receipt outer = s.bitten.publish_to(1, {});
    CHECK(outer.served() == 1);
    CHECK(calls == static_cast<int>(courier::depth_limit()));
    CHECK(courier::last_fault()->code == courier::fault_code::too_deep);
}

TEST_CASE("addresses come and go without leaving anything behind") {
    bitten_channel bitten{"barges.bitten"};
    std::vector<courier::subscription> all;
    for (int round = 0; round < 3; ++round) {
        for (int i = 0; i < 5000; ++i) {
            all.push_back(bitten.at(i * 7 + round).subscribe([] {}));
        }
        CHECK(bitten.addresses() == 5000);
        for (int i = 0; i < 5000; i += 2) { // every other one, then the rest
            all[static_cast<std::size_t>(i)].end();
        }
        CHECK(bitten.addresses() == 2500);
        CHECK(bitten.publish_to(7 + round, {}).served() == 1);
        CHECK(bitten.publish_to(14 + round, {}).vacant());
        all.clear();
        CHECK(bitten.addresses() == 0);
    }
    bitten.shrink();
    const bitten_channel fresh{"barges.bitten"};
    CHECK(bitten.bytes() <= fresh.bytes());
}

TEST_CASE("one handler at two addresses is no mistake, twice at one is") {
    const test::fault_catcher faults;
    bitten_channel bitten{"barges.bitten"};
    courier::subscriber in{"barges"};
    struct barge {
        void on_bitten() {}
    } b;
    in.subscribe<&barge::on_bitten>(bitten.at(1), b);
    in.subscribe<&barge::on_bitten>(bitten.at(2), b);
    CHECK(faults.caught().empty());
    in.subscribe<&barge::on_bitten>(bitten.at(2), b);
    CHECK(faults.caught().size() == (courier::checked_build ? 1 : 0));
    CHECK(in.leave(bitten) == 3);
}
