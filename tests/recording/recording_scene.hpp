// What the tests of recordings share.
#pragma once

#include "../allocations.hpp"
#include "support.hpp"

#include <courier/recording/comparison.hpp>
#include <courier/recording/explanation.hpp>
#include <courier/recording/read_run.hpp>
#include <courier/recording/run_builder.hpp>

#include <fcntl.h>
#include <poll.h>
#include <sys/stat.h>
#include <sys/wait.h>
#include <unistd.h>

namespace recording_scene {

using courier::channel;
using courier::ledger;
using courier::recorder;
using courier::recording_code;
using courier::recording_error;
using courier::run;
using test::Hailed;
using test::Landed;
using test::scratch;

struct Dawn {};

// A short run with a bit of everything.
inline void record_some(const scratch& file, int landings = 3) {
    ledger night("the night");
    recorder to_file(night, file.path(), {.facts = {{"seed", "7"}}});
    night.attach_everything();
    channel<Landed> landed("harbour.landed");
    courier::addressed_channel<Hailed> hailed("harbour.hailed");
    channel<Dawn> dawn("watch.dawn");
    courier::outbox later("end of frame");
    courier::subscriber logbook("logbook");
    courier::subscriber barge("barge 3");
    logbook.subscribe(landed, [&](const Landed& e) {
        later.post(dawn, {});
        static_cast<void>(e);
    });
    barge.subscribe(hailed.at(3), [] {});
    logbook.subscribe(dawn, [&] { hailed.publish_to(3, {.order = 1}); });
    for (int i = 0; i < landings; ++i) {
        landed.publish({.barge = i, .at = test::berth::south, .note = "wet \"crates\"\n", .crates = {{"salt", 1.5}}});
        later.deliver();
        night.end_frame(std::chrono::milliseconds(500 * (i + 1)));
    }
}

} // namespace recording_scene
