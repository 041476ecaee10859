#include "pipeline_scene.hpp"

#include <tuple>

using courier::channel;
using test::Moored;
using namespace std::chrono_literals;
using pipelines::boat;
using pipelines::even;
using pipelines::scene;

TEST_CASE("merge takes what comes, in the order in which it comes") {
    scene s;
    s.hear(courier::merge(*s.port | boat | even, *s.starboard | boat) | courier::drop(1));
    s.publish({1, 2, 4});
    s.starboard->publish({.boat = 7});
    s.publish({6});
    CHECK(s.taken() == "4 7 6 ");
    s.starboard.reset(); // a source that dies leaves the other
    s.publish({8});
    CHECK(s.taken() == "8 ");
    CHECK(s.in->size() == 1);
}

TEST_CASE("one source with the latest of another") {
    scene s;
    s.hear(*s.port | boat | courier::beside(*s.starboard | boat));
    s.publish({1});
    s.starboard->publish({.boat = 10});
    s.starboard->publish({.boat = 20});
    s.publish({2, 3});
    CHECK(s.taken() == "2+20 3+20 ");
    s.starboard.reset();
    s.publish({4});
    CHECK(s.taken() == "4+20 ");
    s.port.reset();
}

TEST_CASE("once_all gives all inputs once, when each has come, and ends") {
    scene s;
    channel<test::Dawn> dawn{"dawn"};
    int times = 0;
    s.in->subscribe(courier::once_all(*s.port, *s.starboard | boat, dawn),
                    [&](const std::tuple<Moored, int, test::Dawn>& all) {
                        ++times;
                        s.note(std::get<0>(all).boat);
                        s.note(std::get<1>(all));
                    });
    s.publish({1, 2});
    dawn.publish();
    CHECK(times == 0);
    s.starboard->publish({.boat = 5});
    s.publish({3});
    s.starboard->publish({.boat = 6});
    CHECK(s.taken() == "2 5 ");
    CHECK(times == 1);
    CHECK(s.in->size() == 0);
    CHECK(dawn.size() == 0);
}

TEST_CASE("one source overrides another while it holds, and the other's latest comes back") {
    scene s;
    const auto over = *s.starboard | courier::transform([](const Moored& m) -> std::optional<int> {
        return m.cargo != 0 ? std::optional{m.boat} : std::nullopt;
    });
    s.hear(*s.port | boat | courier::overridden_by(over));
    s.starboard->publish({.cargo = 0}); // lets go of nothing
    s.publish({1});
    s.starboard->publish({.boat = 90, .cargo = 1});
    s.publish({2, 3});
    s.starboard->publish({.boat = 91, .cargo = 1});
    s.starboard->publish({.cargo = 0});
    s.publish({4});
    CHECK(s.taken() == "1 90 91 3 4 ");
    s.starboard.reset();
    s.publish({5});
    CHECK(s.taken() == "5 ");
}

TEST_CASE("at most every interval, and quiet for one") {
    scene s;
    s.hear(*s.port | boat | courier::at_most_every(s.hours, 100ms));
    s.publish({1, 2});
    s.pass(99ms);
    s.publish({3});
    s.pass(1ms);
    s.publish({4, 5});
    CHECK(s.taken() == "1 4 ");
    s.in->clear();

    s.hear(*s.port | boat | courier::quiet_for(s.hours, 100ms) | courier::take(2));
    s.publish({1});
    s.pass(60ms);
    s.publish({2});
    s.pass(60ms);
    CHECK(s.taken().empty());
    s.pass(40ms);
    CHECK(s.taken() == "2 ");
    s.pass(500ms);
    CHECK(s.taken().empty());
    s.publish({3});
    s.pass(100ms);
    CHECK(s.taken() == "3 ");
    CHECK(s.in->size() == 0);
}

TEST_CASE("what is still to come of a source that has ended comes") {
    scene s;
    s.hear(*s.port | boat | courier::take(1) | courier::quiet_for(s.hours, 100ms));
    s.publish({1});
    CHECK(s.in->size() == 1);
    s.pass(100ms);
    CHECK(s.taken() == "1 ");
    CHECK(s.in->size() == 0);
}

TEST_CASE("timetable and outbox may end before what waits for them") {
    scene s;
    auto later = std::make_unique<courier::outbox>("gone");
    auto hours = std::make_unique<courier::timetable>(*later);
    s.hear(*s.port | boat | courier::quiet_for(*hours, 100ms));
    s.hear(*s.port | boat | courier::at_most_every(*hours, 100ms));
    s.publish({1});
    hours.reset();
    later.reset();
    s.publish({2});
    CHECK(s.taken() == "1 ");
}

TEST_CASE("sources are asked for what they retained, and states are sources like any other") {
    scene s;
    s.port->retain_latest();
    s.publish({1, 2});
    s.hear(*s.port | boat, {.retained = true});
    s.hear(courier::merge(*s.port, *s.starboard) | boat, {.retained = true});
    s.hear(*s.port | boat | courier::take(1), {.retained = true});
    CHECK(s.taken() == "2 2 2 ");
    s.in->clear();
    courier::state<int> tide{"tide", 3};
    s.hear(tide | courier::transform([](const courier::change<int>& c) { return c.after(); }) | even,
           {.retained = true});
    tide.set(4);
    tide.set(5);
    CHECK(s.taken() == "4 ");
    courier::addressed_channel<test::Dawn, int> dawns{"dawns"};
    s.hear(dawns.at(3) | courier::transform([](const test::Dawn&) { return 3; }));
    s.hear(courier::merge(dawns.at(4), dawns.at(5)) | courier::transform([](const test::Dawn&) { return 45; }));
    dawns.publish_to(3, {});
    dawns.publish_to(5, {});
    CHECK(s.taken() == "3 45 ");
}
