// A game whose objects and steps a debugger shows.
#include <courier/courier.hpp>

#include <chrono>
#include <string>

struct thundered {
    int loudness;
};

namespace {

int heard = 0;

void bell(const thundered& t) {
    heard += t.loudness; // bell
}

struct horn {
    void answer(const thundered&) {
        ++heard; // horn
    }
};

} // namespace

int main() {
    using namespace std::chrono_literals;
    courier::channel<thundered> storm{"weather.thundered"};
    courier::outbox later{"later"};
    courier::timetable clock{later, "game time"};
    courier::state<int> crates{"harbour.crates", 12};
    courier::subscriber keeper{"keeper"};
    horn south;
    keeper.subscribe(storm, [](const thundered& t) {
        heard += t.loudness; // keeper
    });
    keeper.subscribe<&horn::answer>(storm, south);
    auto third = storm.subscribe<&bell>();
    keeper.after(clock, 2s, [] {
        ++heard; // timed
    });
    clock.advance(1500ms);
    courier::publisher says{storm, "weather"};
    third.pause();
    says.publish({3}); // publish
    third.resume();
    says.publish({4}); // again
    clock.advance(1s);
    later.deliver();
    return heard == 0 ? 1 : 0;
}
