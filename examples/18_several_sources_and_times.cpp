// Several sources in one pipeline, and what comes too often or not at all.
#include <courier/channel.hpp>
#include <courier/outbox.hpp>
#include <courier/pipeline.hpp>
#include <courier/subscriber.hpp>
#include <courier/timetable.hpp>

#include <chrono>
#include <cstdio>
#include <optional>
#include <string>
#include <tuple>
#include <utility>

using namespace std::chrono_literals;

struct Sailing {
    std::string sail;
};
struct TakingWater {
    bool holds;
};
struct Gust {
    int knots;
};
struct Ready {};

int main() {
    courier::channel<Sailing> sailing{"barge.sailing"};
    courier::channel<TakingWater> taking_water{"barge.taking_water"};
    courier::channel<Gust> gust{"weather.gust"};
    courier::channel<Ready> pilot{"pilot.ready"};
    courier::channel<Ready> tug{"tug.ready"};
    courier::outbox later{"end of frame"};
    courier::timetable clock{later};
    courier::subscriber in{"signal mast"};

    // Taking water comes first while it holds; then the sail that is set by now comes back.
    const auto leaking = taking_water | courier::transform([](const TakingWater& w) -> std::optional<std::string> {
                             return w.holds ? std::optional<std::string>{"taking water"} : std::nullopt;
                         });
    in.subscribe(sailing | courier::transform(&Sailing::sail) | courier::overridden_by(leaking),
                 [](const std::string& shows) { std::printf("mast: %s\n", shows.c_str()); });
    sailing.publish({"full sail"});
    taking_water.publish({.holds = true});
    sailing.publish({"reefed"}); // not shown yet
    taking_water.publish({.holds = false});

    // Once both have come, and then never again.
    in.subscribe(courier::once_all(pilot, tug), [](const std::tuple<Ready, Ready>&) { std::puts("cast off"); });
    pilot.publish();
    tug.publish();

    // Each gust with the sail that is set; one a second at most; and when it has calmed down.
    in.subscribe(gust | courier::at_most_every(clock, 1s) | courier::beside(sailing),
                 [](const std::pair<Gust, Sailing>& both) {
                     std::printf("gust of %d knots, %s\n", both.first.knots, both.second.sail.c_str());
                 });
    in.subscribe(gust | courier::quiet_for(clock, 2s),
                 [](const Gust& last) { std::printf("calm since a gust of %d knots\n", last.knots); });
    sailing.publish({"full sail"});
    for (int i = 0; i < 12; ++i) {
        if (i < 6) {
            gust.publish({.knots = 20 + i});
        }
        clock.advance(500ms);
        later.deliver();
    }
}
