// The core without exceptions and without run-time type information.
#include <courier/courier.hpp>

#include <chrono>
#include <cstdio>
#include <memory>

namespace reef {

struct Dawn {};
struct Moored {
    int boat;
};

struct Hailed {
    using address = int;
    int hand;
};
struct DepthAsked {
    using answer = int;
};

} // namespace reef

namespace {

using namespace reef;

int failures = 0;
void check(bool holds, const char* what) {
    if (!holds) {
        std::printf("failed: %s\n", what);
        ++failures;
    }
}

courier::sequence<> waits_for(const courier::addressed_channel<Hailed>& hailed, courier::timetable& hours,
                              courier::state<int>& tide) {
    const Hailed heard = co_await courier::next(hailed.at(3));
    co_await courier::elapsed(hours, std::chrono::seconds(1));
    tide.set(heard.hand);
}

} // namespace

int main() {
    static_assert(WIRED_COURIER_EXCEPTIONS == 0);
    constexpr courier::stage rules = courier::before(courier::ordinary, "rules");
    courier::channel<Moored> moored{"harbour.moored"};
    courier::channel<Dawn> dawn{"watch.dawn"};
    auto in = std::make_unique<courier::subscriber>("logbook");
    int heard = 0;
    in->subscribe(moored, [&](const Moored& m) { heard += m.boat; });
    in->subscribe(moored, [&] { dawn.publish(); }, {.times = 1});
    in->subscribe(moored, [](const Moored& m) { return m.boat > 5 ? courier::verdict::stop : courier::verdict::go_on; },
                  {.stage = rules, .condition = [](const Moored& m) { return m.boat != 7; }});
    in->subscribe(dawn, [&] { dawn.publish(); });
    check(moored.publish({.boat = 3}).served() == 3, "three served");
    check(moored.publish({.boat = 6}).stopped(), "stopped");
    check(moored.publish({.boat = 7}).served() == 1, "condition");
    check(heard == 10, "heard");
    check(courier::last_fault() != nullptr && courier::last_fault()->code == courier::fault_code::too_deep, "depth");

    courier::hub match{"match"};
    courier::addressed_channel<Hailed>& hailed = match.channel<Hailed>();
    courier::group<int> crew{"crew"};
    const courier::membership<int> third = crew.join(3);
    const courier::relay calls{hailed, moored, [](const Hailed& h) { return Moored{h.hand}; }};
    courier::tally<int> ready{"ready"};
    ready.expect_group(crew);
    ready.reports_from(hailed.at(3), &Hailed::hand);
    courier::query<DepthAsked> depth{"depth", 4};
    courier::period open{"watch"};
    in->answer(depth, [] { return 5; }, {.during = open});
    check(hailed.publish_to(crew, {.hand = 3}).served() == 2, "group and relay");
    check(ready.complete(), "tally");
    courier::outbox later{"later"};
    courier::inbox arrivals{later};
    courier::timetable hours{later};
    courier::frame_driver frame;
    frame.take_in(arrivals).advance(hours).deliver(later);
    const courier::inlet<Moored> out{arrivals, moored};
    hours.after(std::chrono::seconds(1), moored, {.boat = 4}).release();
    later.post_to(hailed, 3, {.hand = 3});
    check(out.send({.boat = 2}), "send");
    const courier::frame_report& report = frame.run(std::chrono::seconds(1));
    check(report.arrived == 1 && report.due == 1 && report.delivered == 3, "frame");
    check(depth.ask({}) == 5, "answer");
    open.end();
    check(depth.ask({}) == 4, "default");
    courier::state<int> tide{"tide", 2};
    const courier::formula<int> room{"room", [&] { return 10 - tide.read(); }};
    int shown = 0;
    in->keep_current([&] { shown = room.read(); });
    in->subscribe(moored | courier::filter([](const Moored& m) { return m.boat == 7; }) |
                      courier::transform(&Moored::boat),
                  [&](int boat) { tide.set(boat); });
    in->start(waits_for(hailed, hours, tide));
    moored.publish({.boat = 7});
    check(shown == 3, "refresher");
    hailed.publish_to(3, {.hand = 3});
    frame.run(std::chrono::seconds(1));
    check(tide.read() == 3, "sequence");
    in.reset();
    check(!dawn.publish().heard(), "all ended");
    if (failures == 0) {
        std::puts("no exceptions: all well");
    }
    return failures == 0 ? 0 : 1;
}
