// A sequence waits for one thing and then another, owned by a subscriber and ended with it.
#include <courier/channel.hpp>
#include <courier/outbox.hpp>
#include <courier/sequence.hpp>
#include <courier/state.hpp>
#include <courier/subscriber.hpp>
#include <courier/timetable.hpp>
#include <courier/wait.hpp>

#include <chrono>
#include <cstdio>
#include <memory>

using namespace std::chrono_literals;

struct DuskFell {};
struct LampLit {
    int hand;
};
struct WyrmSighted {
    int distance;
};

struct Tower {
    courier::channel<DuskFell> dusk{"watch.dusk"};
    courier::channel<LampLit> lamp_lit{"lamp.lit"};
    courier::channel<WyrmSighted> sighted{"wyrms.sighted"};
    courier::state<int> tide{"tide", 0};
    courier::outbox later{"end of frame"};
    courier::timetable clock{later};

    void pass(courier::game_time step) {
        clock.advance(step);
        later.deliver();
    }
};

courier::sequence<> opening_watch(Tower& tower) {
    co_await courier::next(tower.dusk);
    std::puts("dusk: light the lamp");
    const auto lit = co_await courier::within(tower.clock, 5s, courier::next(tower.lamp_lit));
    if (lit) {
        std::printf("hand %d has lit it\n", lit->hand);
    } else {
        std::puts("no light after five seconds: the keeper goes up");
    }
    co_await courier::until([&] { return tower.tide.read() > 2; });
    std::puts("the tide is in");
    for (;;) {
        const auto first = co_await courier::when_any(
            courier::next(tower.sighted, [](const WyrmSighted& w) { return w.distance < 5; }),
            courier::elapsed(tower.clock, 10s));
        if (first.index() == 1) {
            std::puts("ten quiet seconds: the watch is over");
            co_return;
        }
        std::printf("a wyrm, %d cables off\n", std::get<0>(first).distance);
    }
}

int main() {
    Tower tower;
    auto in = std::make_unique<courier::subscriber>("keeper");
    in->start(opening_watch(tower));
    in->start(opening_watch(tower)); // a second keeper, who will be sent to bed
    tower.dusk.publish();
    tower.pass(3s);
    tower.lamp_lit.publish({.hand = 4});

    for (const courier::sequence_report& one : courier::list_sequences()) {
        std::printf("  waiting for %s\n", one.waits_for.c_str());
    }
    in = std::make_unique<courier::subscriber>("keeper"); // both end where they are
    in->start(opening_watch(tower));
    tower.dusk.publish();
    tower.pass(5s);
    tower.tide.set(3);
    tower.sighted.publish({.distance = 8}); // too far to be waited for
    tower.sighted.publish({.distance = 4});
    tower.pass(10s);
    std::printf("%zu sequences left\n", in->size());
}
