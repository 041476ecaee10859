// A level that ends and begins again, with a pool of gulls in it and a wire across.
#include <courier/fault.hpp>
#include <courier/hub.hpp>
#include <courier/level.hpp>
#include <courier/lifecycle.hpp>
#include <courier/outbox.hpp>
#include <courier/timetable.hpp>
#include <courier/wiring/wiring.hpp>

#include <chrono>
#include <cstdio>
#include <deque>

using namespace std::chrono_literals;

struct Shrieked {
    int gull;
};
struct Scored {
    int points;
};

/// Made once, and used again and again: it hears nothing and its calls wait while it is asleep.
class gull {
public:
    gull(int number, courier::hub& level, courier::timetable& clock, courier::lifecycle_channels<gull>& all)
        : number_(number), shrieks_(level.channel<Shrieked>(), "gull"), life_(*this, all) {
        in_.follow(life_);
        in_.every(clock, 1s, [this] { shrieks_.publish({.gull = number_}); });
    }
    void land() { life_.wake(); }
    void fly_off() { life_.sleep(); }

private:
    int number_;
    courier::publisher<Shrieked> shrieks_;
    courier::subscriber in_{"gull"};
    courier::lifecycle<gull> life_;
};

int main() {
    courier::hub game{"game"};
    static_cast<void>(game.channel<Scored>()); // the game's, and so the same one in each level
    courier::outbox later{"end of frame"};
    courier::subscriber board{"board"};
    int points = 0;
    board.subscribe(game.channel<Scored>(), [&](const Scored& s) { points += s.points; });

    courier::timetable* clock = nullptr;
    std::deque<gull>* gulls = nullptr;
    courier::level reef{"reef", game, [&](courier::level& here) {
                            clock = &here.make<courier::timetable>(later, "reef time");
                            auto& all = here.make<courier::lifecycle_channels<gull>>("gull");
                            gulls = &here.make<std::deque<gull>>();
                            for (int i = 0; i < 3; ++i) {
                                gulls->emplace_back(i, here.hub(), *clock, all);
                            }
                            here.in().subscribe(here.hub().channel<Shrieked>(),
                                                [&, score = courier::publisher<Scored>(game.channel<Scored>())] {
                                                    score.publish({.points = 1});
                                                });
                        }};
    const auto second = [&] {
        clock->advance(1s);
        later.deliver();
    };
    reef.begin();

    // Wires of the whole game: those of a level's channels wait while there is none.
    courier::wiring wires{"game"};
    wires.offer(game); // and the hubs of its levels, now and later
    wires.action(board, "board.write", [] { std::puts("board: a gull!"); });
    wires.load_text("reef.toml", "[[wire]]\nwhen = 'Shrieked'\ndo = 'board.write'\n");

    for (int night = 1; night <= 2; ++night) {
        std::printf("night %d\n", night);
        second(); // all gulls are asleep
        (*gulls)[1].land();
        second();
        reef.sleep();
        second();
        reef.wake();
        (*gulls)[1].fly_off();
        second();
        reef.end();
        std::printf("%d points, the wire waits: %s\n", points, wires.wires()[0].waits_for_cause ? "yes" : "no");
        reef.begin();
    }

    // What a level leaves behind is named with its line, and ends with it.
    courier::subscriber display{"display"};
    display.subscribe(reef.hub().channel<Shrieked>(), [](const Shrieked&) {});
    reef.end();
    std::puts(courier::last_fault()->what.c_str());
}
