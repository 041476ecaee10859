// A timetable posts payloads when their time has come, in game time.
#include <courier/channel.hpp>
#include <courier/outbox.hpp>
#include <courier/subscriber.hpp>
#include <courier/timetable.hpp>

#include <chrono>
#include <cstdio>

using namespace std::chrono_literals;

struct Thundered {
    int distance; // cables
};
struct BellRang {};

int main() {
    courier::channel<Thundered> thundered{"weather.thundered"};
    courier::channel<BellRang> rang{"watch.bell"};
    courier::outbox later{"end of frame"};
    courier::timetable clock{later};
    courier::subscriber in{"keeper"};
    const auto now = [&clock] { return static_cast<int>(clock.now() / 1ms); };
    in.subscribe(thundered,
                 [&](const Thundered& t) { std::printf("%5d ms: thunder, %d cables\n", now(), t.distance); });
    in.subscribe(rang, [&] { std::printf("%5d ms: bell\n", now()); });

    const auto pass = [&](courier::game_time step) { // what a frame does
        clock.advance(step);
        later.deliver();
    };
    clock.after(1400ms, thundered, {.distance = 3}).release(); // comes, whatever becomes of the flash
    courier::timer other = clock.after(1700ms, thundered, {.distance = 9});
    courier::timer bell = clock.every(1s, rang, {});
    for (int frame = 0; frame < 3; ++frame) {
        pass(500ms);
    }
    other.end(); // before its time; the owner's end does so, too

    std::puts("paused");
    clock.pause();
    pass(10s);
    clock.resume();
    std::puts("a frame of three seconds: every beat that was missed");
    pass(3s);
    bell = clock.every(1s, rang, {}, {.missed = courier::missed_beats::once});
    std::puts("and another: one for all");
    pass(3s);
    bell.end();
    pass(3s);
}
