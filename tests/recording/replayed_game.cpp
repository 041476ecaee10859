// A game of its own that records its runs, and runs them again when the tool asks.
// Usage: replayed_game FILE [STEP]
#include <courier/channel.hpp>
#include <courier/from_outside.hpp>
#include <courier/ledger.hpp>
#include <courier/recording/recorder.hpp>
#include <courier/recording/replay.hpp>
#include <courier/subscriber.hpp>

#include <cstdlib>

namespace {

struct KeyPressed {
    int key = 0;
};
struct LampTurned {
    int bearing = 0;
};

struct lighthouse {
    explicit lighthouse(int step) {
        keeper.subscribe(pressed, [this, step](const KeyPressed& e) { turned.publish({.bearing = e.key * step}); });
    }
    courier::channel<KeyPressed> pressed{"keys.pressed"};
    courier::channel<LampTurned> turned{"lamp.turned"};
    courier::subscriber keeper{"keeper"};
};

} // namespace

int main(int argc, char** argv) {
    const int step = argc > 2 ? std::atoi(argv[2]) : 10;
    courier::ledger night{"another game"};
    if (const auto file = courier::replay_wanted()) {
        courier::replay again{night, *file};
        night.attach_everything();
        lighthouse house{step};
        again.feed(house.pressed);
        for (; !again.over(); night.end_frame()) {
            again.step();
        }
        again.finish();
        return 0;
    }
    const courier::recorder to_file{night, argv[1]};
    night.attach_everything();
    lighthouse house{step};
    for (int key = 1; key <= 5; ++key, night.end_frame()) {
        const courier::from_outside now;
        house.pressed.publish({.key = key});
    }
    return 0;
}
