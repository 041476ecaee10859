// What came from outside is fed into a fresh run, and what follows is compared.
#include <courier/from_outside.hpp>
#include <courier/ledger.hpp>
#include <courier/recording/recorder.hpp>
#include <courier/recording/replay.hpp>
#include <courier/subscriber.hpp>

#include <cstdio>
#include <filesystem>

struct KeyPressed {
    int key;
};
struct LampTurned {
    int bearing;
};

struct Lighthouse {
    explicit Lighthouse(int step) {
        keeper.subscribe(pressed,
                         [this, step](const KeyPressed& e) { turned.publish({.bearing = bearing += e.key * step}); });
    }
    courier::channel<KeyPressed> pressed{"keys.pressed"};
    courier::channel<LampTurned> turned{"lamp.turned"};
    courier::subscriber keeper{"keeper"};
    int bearing = 0;
};

void replay(const std::filesystem::path& file, int step) {
    courier::ledger night{"the night"};
    courier::replay again{night, file};
    night.attach_everything();
    Lighthouse house{step};
    again.feed(house.pressed);
    for (; !again.over(); night.end_frame()) {
        again.step(); // instead of reading keys
    }
    std::printf("%d events the same%s\n", static_cast<int>(again.same()),
                again.difference() ? "; then the recording and this run differ" : ", no difference");
}

int main() {
    const auto file = std::filesystem::temp_directory_path() / "courier_example_23.jsonl";
    {
        courier::ledger night{"the night"};
        const courier::recorder to_file{night, file};
        night.attach_everything();
        Lighthouse house{10};
        for (int key = 1; key <= 3; ++key, night.end_frame()) {
            const courier::from_outside now; // the player's keys
            house.pressed.publish({.key = key});
        }
    }
    replay(file, 10);
    replay(file, 11); // the game has changed
}
