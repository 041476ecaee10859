// A run goes into a file, one CloudEvents line per event; read back, it tells
// why a reaction did not come.
#include <courier/channel.hpp>
#include <courier/ledger.hpp>
#include <courier/recording/explanation.hpp>
#include <courier/recording/read_run.hpp>
#include <courier/recording/recorder.hpp>
#include <courier/subscriber.hpp>

#include <cstdio>
#include <filesystem>

struct Moored {
    int barge;
    int crates;
};

int main() {
    const auto file = std::filesystem::temp_directory_path() / "courier_example_22.jsonl";
    {
        courier::ledger night{"the night"};
        courier::recorder to_file{night, file, {.facts = {{"seed", "7"}}}};
        night.attach_everything();
        courier::channel<Moored> moored{"barges.moored"};
        courier::subscriber bell{"bell"};
        bell.subscribe(moored, [] {}, {.condition = [](const Moored& m) { return m.crates > 0; }});
        moored.publish({.barge = 1, .crates = 12});
        night.end_frame();
        moored.publish({.barge = 2, .crates = 0});
        night.end_frame();
        bell.pause();
        moored.publish({.barge = 3, .crates = 9});
        night.end_frame();
    }
    const courier::run night = courier::read_run(file);
    std::printf("%s, seed %s\n", night.state().c_str(), night.facts.at("seed").c_str());
    for (const courier::recorded_event& e : night.events) {
        std::printf("frame %u: %s %s\n", e.frame, night.channels[e.channel].name.c_str(),
                    std::string(night.payload_of(e)).c_str());
    }
    const courier::why_not_answer bell = why_not(night, {.channel = "barges.moored", .party = "bell"});
    std::printf("the bell heard %d of %d\n", static_cast<int>(bell.heard), static_cast<int>(bell.published));
    for (const courier::reason_found& reason : bell.reasons) {
        std::printf("  %d: %s, in frame %u\n", static_cast<int>(reason.events), text_of(reason.why).c_str(),
                    reason.frame);
    }
    std::filesystem::remove(file);
}
