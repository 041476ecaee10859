// SPDX-License-Identifier: MIT
// Ten frames of the game. Usage: my_game [RECORDING]
#include "game.hpp"

#include <courier/frame_driver.hpp>
#include <courier/ledger.hpp>
#include <courier/recording/recorder.hpp>

#include <chrono>
#include <cstdio>
#include <optional>

using namespace std::chrono_literals;

int main(int argc, char** argv) {
    // Before everything else, so that it sees all of it.
    std::optional<courier::ledger> seen;
    std::optional<courier::recorder> to_file;
    if (argc > 1) {
        seen.emplace("my_game");
        to_file.emplace(*seen, argv[1]);
        seen->attach_everything();
    }

    courier::outbox later{"end of frame"};
    courier::timetable time{later, "game time"};
    courier::frame_driver frame;
    frame.advance(time).deliver(later);

    harbour here;
    const board shown{here};
    courier::subscriber sea{"sea"};
    sea.every(time, 500ms, [&here, boat = 0]() mutable {
        ++boat;
        here.moor(boat, 4 + boat % 3);
    });

    for (int i = 0; i < 10; ++i) { // your loop: input and updates before, drawing behind
        frame.run(250ms);          // also a frame of the ledger
    }
    std::printf("%d crates\n", shown.crates());
}
