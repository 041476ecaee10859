#include "support.hpp"

using courier::group;

namespace {

struct Hailed {
    using address = int;
};

} // namespace

TEST_CASE("members join and leave, and the group says so") {
    group<int> crew{"crew"};
    const courier::witness joined{crew.joined()};
    const courier::witness left{crew.left()};
    courier::membership<int> first = crew.join(1);
    const courier::membership<int> twice = crew.join(1);
    auto second = std::make_optional(crew.join(2));
    CHECK(crew.members() == std::vector<int>{1, 2});
    CHECK(joined.count() == 2); // joining again is not joining
    first.end();
    CHECK_FALSE(first.live());
    CHECK(twice.live());
    CHECK(crew.has(1));
    second.reset();
    CHECK(left.latest().member == 2);
    CHECK(crew.leave(1)); // out, however often it joined
    CHECK_FALSE(crew.leave(1));
    CHECK_FALSE(twice.live());
    CHECK(crew.empty());
    const courier::membership<int> back = crew.join(1);
    CHECK_FALSE(twice.live()); // that stay is over
    CHECK(left.count() == 2);
}

TEST_CASE("a group keeps the order of joining through many changes") {
    group<int> crew;
    std::vector<courier::membership<int>> stays;
    for (int i = 0; i < 100; ++i) {
        stays.push_back(crew.join(i));
    }
    for (std::size_t i = 0; i < 100; ++i) {
        if (i % 10 != 3) {
            stays[i].end();
        }
    }
    CHECK(crew.members() == std::vector<int>{3, 13, 23, 33, 43, 53, 63, 73, 83, 93});
    CHECK(crew.size() == 10);
    CHECK(crew.has(53));
}

TEST_CASE("either of group and membership may end first, also in a handler") {
    auto crew = std::make_unique<group<int>>("crew");
    courier::membership<int> stay = crew->join(1);
    crew.reset();
    CHECK_FALSE(stay.live());
    stay.end();

    crew = std::make_unique<group<int>>("crew");
    const courier::subscription s = crew->joined().subscribe([&] { crew.reset(); });
    const courier::membership<int> other = crew->join(2);
    CHECK(crew == nullptr);
    CHECK_FALSE(other.live());
}

TEST_CASE("what listeners throw when a membership is destroyed is reported") {
    const test::fault_catcher faults;
    group<int> crew{"crew"};
    const courier::subscription s = crew.left().subscribe([] { throw std::runtime_error("overboard"); });
    { const courier::membership<int> stay = crew.join(1); }
    CHECK(faults.told_once({"[courier.failure-lost]", "'overboard'"}));
    CHECK(crew.empty());
    courier::membership<int> again = crew.join(1);
    CHECK_THROWS_WITH(again.end(), "overboard");
}

TEST_CASE("a payload for a group reaches everybody once, in the channel's order") {
    courier::addressed_channel<Hailed> hailed{"hailed"};
    group<int> convoy{"convoy"};
    const auto late = courier::after(courier::ordinary, "late");
    test::trace order;
    courier::subscriber in{"hands"};
    const auto note = [&order](int number) { return [&order, number] { order.push_back(number); }; };
    in.subscribe(hailed.at(2), note(1), {.stage = late});
    in.subscribe(hailed.at(1), note(2));
    in.subscribe(hailed, note(3));
    in.subscribe(hailed.at(2), note(4));
    in.subscribe(hailed.at(9), note(5));
    const courier::membership<int> two = convoy.join(2);
    courier::membership<int> one = convoy.join(1);
    const courier::membership<int> unheard = convoy.join(8);
    const courier::receipt r = hailed.publish_to(convoy, {});
    CHECK(r.served() == 4);
    CHECK_FALSE(r.vacant());
    CHECK(order == test::trace{2, 3, 4, 1});
    order.clear();
    one.end();
    hailed.publish_to(convoy, {});
    CHECK(order == test::trace{3, 4, 1});
}
