// Records nights at Gannet Reef, one after the other, until there are a million events.
// Usage: long_run OUTPUT.jsonl [EVENTS]
#include <reef_night.hpp>

#include <courier/ledger.hpp>
#include <courier/recording/recorder.hpp>

#include <cstdint>
#include <cstdio>
#include <cstdlib>

int main(int argc, char** argv) {
    if (argc < 2) {
        std::fputs("usage: long_run OUTPUT.jsonl [EVENTS]\n", stderr);
        return 2;
    }
    const std::uint64_t wanted = argc > 2 ? std::strtoull(argv[2], nullptr, 10) : 1'000'000;
    courier::ledger overseer("gannet reef");
    courier::recorder to_file(overseer, argv[1], {.facts = {{"program", "long_run"}}});
    overseer.attach_everything();
    for (std::uint64_t seed = 1; to_file.recorded() < wanted; ++seed) {
        reef::night_log log([](const reef::log_line&) {});
        constexpr int frames = 20000;
        reef::reef_night night({.seed = seed, .frames = frames}, log);
        for (int frame = 0; frame < frames && to_file.recorded() < wanted; ++frame) {
            night.step(frame);
        }
    }
    std::printf("%llu events\n", static_cast<unsigned long long>(to_file.recorded()));
    return 0;
}
