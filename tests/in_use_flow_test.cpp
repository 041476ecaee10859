// Code of the user's that runs in the middle of what the library does, in pipelines and waits. It may do anything
// there.
#include "in_use_scene.hpp"

using namespace in_use;

TEST_CASE("a pipeline may end its subscription in the middle: nothing further on is called, and it ends once") {
    channel<Tide> tide{"tide"};
    subscriber in{"in"};
    int heard = 0;
    const auto ends = [&](const Tide&) { return in.clear(), true; };
    const auto count = [&] { ++heard; };
    const auto too_far = [&](const Tide& t) { return ++heard, t.height; };
    SUBCASE("filter") {
        in.subscribe(tide | courier::filter(ends), count);
    }
    SUBCASE("filter, of one word") {
        in.subscribe(tide | courier::filter([&in](const Tide&) { return in.clear(), true; }),
                     [](const Tide&) { FAIL("called after its end"); });
    }
    SUBCASE("transform") {
        in.subscribe(tide | courier::transform([&](const Tide& t) { return in.clear(), t.height; }) |
                         courier::take_while([](int height) { return height < 0; }),
                     count);
    }
    SUBCASE("take") {
        in.subscribe(tide | courier::filter(ends) | courier::take(1), count);
    }
    SUBCASE("times") {
        in.subscribe(tide | courier::filter(ends), count, {.times = 1});
    }
    SUBCASE("condition") {
        in.subscribe(tide | courier::filter([](const Tide&) { return true; }), count, {.condition = ends});
    }
    SUBCASE("in front of another function") {
        in.subscribe(tide | courier::filter(ends) | courier::transform(too_far), [](int) {});
    }
    SUBCASE("drop_while") {
        in.subscribe(tide | courier::drop_while([&](const Tide&) { return in.clear(), false; }), count);
    }
    SUBCASE("only_changes") {
        in.subscribe(tide | courier::only_changes([&](const Tide& t) { return in.clear(), t.height; }), count);
    }
    SUBCASE("accumulate") {
        in.subscribe(tide | courier::accumulate(0, [&](int sum, const Tide&) { return in.clear(), sum; }), count);
    }
    SUBCASE("several sources") {
        in.subscribe(courier::merge(tide, tide | courier::filter([](const Tide&) { return false; })) |
                         courier::filter(ends) | courier::take(1),
                     count);
    }
    SUBCASE("one of several sources") {
        in.subscribe(courier::merge(tide | courier::filter(ends), tide), count);
    }
    tide.publish({4});
    tide.publish({20});
    CHECK(heard == 0);
    CHECK(tide.size() == 0);
    CHECK(in.size() == 0);
}

TEST_CASE("a pipeline that pauses itself in the middle calls nothing further on") {
    channel<Tide> tide{"tide"};
    subscriber in{"in"};
    int heard = 0;
    in.subscribe(tide | courier::filter([&in](const Tide&) { return in.pause(), true; }), [&heard] { ++heard; });
    tide.publish({1});
    CHECK(heard == 0);
    in.resume();
    CHECK(in.size() == 1);
}

TEST_CASE("a window that is shown stays as it is, whatever its handler publishes") {
    channel<Tide> tide{"tide"};
    subscriber in{"in"};
    std::vector<int> sums;
    in.subscribe(tide | courier::transform(&Tide::height) | courier::slide(3), [&](std::span<const int> last) {
        if (last[2] < 6) {
            tide.publish({last[2] + 1});
        }
        sums.push_back(last[0] * 100 + last[1] * 10 + last[2]);
    });
    for (int i = 1; i <= 3; ++i) {
        tide.publish({i});
    }
    CHECK(sums == std::vector<int>{456, 345, 234, 123});
    sums.clear();
    tide.publish({9});
    CHECK(sums == std::vector<int>{569});
}
