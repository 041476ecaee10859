// A handler may take a round's payloads side by side; a frame driver does what a main loop has to do.
#include <courier/channel.hpp>
#include <courier/frame_driver.hpp>
#include <courier/subscriber.hpp>

#include <chrono>
#include <cstdio>
#include <span>
#include <string>

using namespace std::chrono_literals;

struct Splashed {
    float height;
};
struct GullCried {};

int main() {
    courier::channel<Splashed> splashed{"sea.splashed"};
    courier::channel<GullCried> cried{"gulls.cried"};
    courier::outbox physics{"physics"};
    courier::outbox drawing{"drawing"};
    courier::inbox arrivals{physics};
    courier::timetable clock{physics};

    courier::frame_driver frame;
    frame.take_in(arrivals).advance(clock).deliver(physics).deliver(drawing, {.payloads = 100});

    courier::subscriber in{"foam"};
    in.subscribe(splashed, [](std::span<const Splashed> all) { // once a round, contiguous in memory
        float highest = 0;
        for (const Splashed& s : all) {
            highest = s.height > highest ? s.height : highest;
        }
        std::printf("  foam: %zu splashes, the highest %.1f\n", all.size(), static_cast<double>(highest));
    });
    in.subscribe(cried, [] { std::puts("  a gull"); });

    const courier::poster<Splashed> splash{physics, splashed};
    const courier::timer gulls = clock.every(30ms, cried, {});
    for (int i = 0; i < 3; ++i) {
        for (int wave = 0; wave < 1000 * i; ++wave) {
            splash.post({.height = static_cast<float>(wave % 37) / 10.0F});
        }
        const courier::frame_report& report = frame.run(16ms);
        std::printf("frame %d: %zu due, %zu delivered\n", static_cast<int>(report.frame), report.due, report.delivered);
        for (const courier::frame_line& line : report.channels) { // the figures that show a flood
            std::printf("  %s: %zu\n", std::string(line.channel).c_str(), line.delivered);
        }
    }
}
