#include "support.hpp"

using courier::channel;
using test::Moored;
using namespace std::chrono_literals;

namespace {

struct scene {
    channel<Moored> moored{"moored"};
    channel<Moored> left{"left"};
    courier::outbox physics{"physics"};
    courier::outbox drawing{"drawing"};
    courier::inbox arrivals{physics, "arrivals"};
    courier::timetable hours{physics};
    courier::frame_driver frame;
    std::string log;
    courier::subscriber in{"logbook"};

    scene() {
        frame.take_in(arrivals).advance(hours).deliver(physics).deliver(drawing);
        in.subscribe(moored, [this](const Moored& m) { log += "m" + std::to_string(m.boat) + " "; });
        in.subscribe(left, [this](const Moored& m) { log += "l" + std::to_string(m.boat) + " "; });
    }
};

} // namespace

TEST_CASE("a frame takes in, lets time pass and delivers, stage by stage, and tells what it did") {
    scene s;
    const courier::inlet<Moored> out{s.arrivals, s.moored};
    std::thread([out] { out.send({.boat = 1}); }).join();
    s.hours.after(16ms, s.moored, {.boat = 2}).release();
    s.hours.after(17ms, s.moored, {.boat = 3}).release();
    s.drawing.post(s.left, {.boat = 9});
    s.in.subscribe(s.moored, [&](const Moored& m) {
        s.drawing.post(s.left, {.boat = m.boat}); // a later stage of this frame
        s.physics.post(s.left, {.boat = m.boat}); // the next frame
    });
    const courier::frame_report& r = s.frame.run(16ms);
    CHECK(s.log == "m1 m2 l9 l1 l2 ");
    CHECK(r.frame == 1);
    CHECK(r.arrived == 1);
    CHECK(r.due == 1);
    CHECK(r.delivered == 5);
    CHECK(r.waiting == 2);
    REQUIRE(r.channels.size() == 3);
    CHECK(r.channels[0].channel == "left");
    CHECK(r.channels[0].delivered == 3);
    CHECK(r.channels[1].channel == "moored");
    CHECK(r.channels[2].waiting == 2);
    s.log.clear();
    s.frame.run(16ms);
    CHECK(s.log == "l1 l2 m3 l3 "); // what waited longer comes first
    CHECK(s.frame.report().frame == 2);
    CHECK(s.frame.report().delivered == 4);
}

TEST_CASE("whatever takes in takes part in a frame, before the inboxes, until it is left out") {
    scene s;
    struct line_in {
        std::string* log;
        std::size_t take_in() {
            *log += "in ";
            return 3;
        }
    } line{&s.log};
    s.frame.take_in(line);
    const courier::inlet<Moored> out{s.arrivals, s.moored};
    out.send({.boat = 1});
    CHECK(s.frame.run(16ms).arrived == 4);
    CHECK(s.log == "in m1 ");
    s.frame.leave(line);
    CHECK(s.frame.run(16ms).arrived == 0);
    CHECK(s.log == "in m1 ");
}

TEST_CASE("a stage may have a budget, and what is refused in a frame is counted") {
    scene s;
    courier::outbox slow{"slow"};
    s.frame.deliver(slow, {.payloads = 2});
    const courier::poster<Moored> out{slow, s.moored, {.limit = 5}};
    for (int i = 0; i < 7; ++i) {
        out.post({.boat = i});
    }
    const courier::frame_report& r = s.frame.run(1ms);
    REQUIRE(r.channels.size() == 1);
    CHECK(r.channels[0].delivered == 2);
    CHECK(r.channels[0].waiting == 3);
    CHECK(r.channels[0].turned_away == 2);
    s.frame.run(1ms);
    CHECK(r.channels[0].turned_away == 0);
    s.frame.leave(slow);
    s.frame.run(1ms);
    CHECK(s.log == "m0 m1 m2 m3 ");
}

TEST_CASE("what was delivered before a stage took part is not of its first frame") {
    scene s;
    courier::outbox early{"early"};
    early.post(s.moored, {.boat = 1});
    early.deliver();
    s.frame.deliver(early);
    CHECK(s.frame.run(1ms).channels.empty());
}

TEST_CASE("what throws in a frame keeps nothing from being done, and stages may be left out in it, or end") {
    scene s;
    auto last = std::make_unique<courier::outbox>("last");
    s.frame.deliver(*last);
    last->post(s.left, {.boat = 7});
    s.in.subscribe(s.moored, [&] {
        last.reset(); // takes no further part
        throw std::runtime_error("overboard");
    });
    s.physics.post(s.moored, {.boat = 1});
    s.drawing.post(s.left, {.boat = 2});
    CHECK_THROWS_WITH(s.frame.run(1ms), "overboard");
    CHECK(s.log == "m1 l2 ");
    CHECK(s.frame.report().delivered == 2);
    s.frame.leave(s.arrivals);
    s.frame.leave(s.hours);
    CHECK(s.frame.run(1ms).delivered == 0);
    CHECK(s.hours.now() == 1ms);
}

TEST_CASE("a step may be in floating-point seconds") {
    courier::outbox later;
    courier::timetable hours{later};
    courier::frame_driver frame;
    frame.advance(hours).deliver(later);
    frame.run(std::chrono::duration<float>(0.25F));
    CHECK(hours.now() == std::chrono::milliseconds(250));
    frame.run(std::chrono::duration<double>(1e-9 * 1.6));
    CHECK(hours.now().count() == 250000002);
    CHECK(courier::time_span(std::chrono::duration<double>(1e300)).count() == courier::never.count());
    CHECK(courier::time_span(std::chrono::duration<double>(std::numeric_limits<double>::quiet_NaN())).count() == 0);
    CHECK(courier::time_span(std::chrono::duration<float>(-0.5F)).count() == -500000000);
}
