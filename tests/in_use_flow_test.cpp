// Code of the user's that runs in the middle of what the library does, in pipelines and waits. It may do anything
// there.
#include "in_use_scene.hpp"

#include <doctest/doctest.h>

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

TEST_CASE("a test, a fallback and a copy may end the sequence that they are for") {
    channel<Tide> tide{"tide"};
    auto in = std::make_unique<subscriber>("keeper");
    int went_on = 0;
    const auto ends = [&](const Tide&) { return in.reset(), true; };
    struct scene {
        static courier::sequence<> waits(channel<Tide>& of, std::function<bool(const Tide&)> test, int& went_on) {
            co_await courier::next(of, test);
            ++went_on;
        }
        static courier::sequence<> together(channel<Tide>& of, std::function<bool(const Tide&)> test, int& went_on) {
            co_await courier::when_any(courier::next(of, test), courier::next(of));
            ++went_on;
        }
    };
    SUBCASE("next") {
        in->start(scene::waits(tide, ends, went_on));
    }
    SUBCASE("when_any") {
        in->start(scene::together(tide, ends, went_on));
    }
    SUBCASE("a test that publishes what another wait is for") {
        bool once = false;
        in->start(scene::together(
            tide,
            [&](const Tide& t) {
                if (!std::exchange(once, true)) {
                    tide.publish({t.height + 1});
                }
                return true;
            },
            went_on));
        tide.publish({1});
        CHECK(went_on == 1);
        went_on = 0;
        in.reset();
    }
    tide.publish({1});
    CHECK(in == nullptr);
    CHECK(went_on == 0);
    CHECK(courier::list_sequences().empty());
}

TEST_CASE("until: its test may end the sequence") {
    courier::state<int> depth{"depth", 0};
    auto in = std::make_unique<subscriber>("keeper");
    int went_on = 0;
    struct scene {
        static courier::sequence<> waits(std::function<bool()> test, int& went_on) {
            co_await courier::until(test);
            ++went_on;
        }
    };
    in->start(scene::waits(
        [&] {
            const bool deep = depth.read() > 2;
            if (deep) {
                in.reset();
            }
            return deep;
        },
        went_on));
    depth.set(1);
    CHECK(courier::list_sequences().size() == 1);
    depth.set(3);
    CHECK(went_on == 0);
    CHECK(courier::list_sequences().empty());
}

TEST_CASE("arrivals: copying may end the sequence that collects") {
    struct Parcel {
        std::function<void()>* copied = nullptr;
        Parcel() = default;
        explicit Parcel(std::function<void()>& act) : copied(&act) {}
        Parcel(const Parcel& other) : copied(other.copied) {
            if (copied != nullptr) {
                (*copied)();
            }
        }
        Parcel& operator=(const Parcel&) = default;
    };
    channel<Parcel> parcels{"parcels"};
    channel<Tide> tide{"tide"};
    auto in = std::make_unique<subscriber>("keeper");
    std::function<void()> act = [&] { in.reset(); };
    struct scene {
        static courier::sequence<> collects(channel<Parcel>& of, channel<Tide>& on) {
            courier::arrivals all{of};
            co_await courier::next(on);
            co_await all.next();
        }
    };
    in->start(scene::collects(parcels, tide));
    parcels.publish(Parcel(act));
    CHECK(in == nullptr);
    CHECK(parcels.size() == 0);
}
