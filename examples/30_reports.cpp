// A run to send to a colleague: as a page, and for a profiler's time line.
#include <courier/channel.hpp>
#include <courier/gateway/report.hpp>
#include <courier/ledger.hpp>
#include <courier/recording/read_run.hpp>
#include <courier/recording/recorder.hpp>
#include <courier/recording/trace_events.hpp>
#include <courier/subscriber.hpp>

#include <chrono>
#include <cstdio>
#include <filesystem>
#include <string>

struct Flashed {
    int distance;
};
struct Thundered {
    int distance;
};

int main() {
    using namespace std::chrono_literals;
    const std::filesystem::path file = std::filesystem::temp_directory_path() / "example_30.jsonl";
    {
        courier::ledger night{"a night"};
        courier::recorder to_file{night, file};
        night.attach_everything();
        courier::channel<Flashed> flashed{"weather.flashed"};
        courier::channel<Thundered> thundered{"weather.thundered"};
        courier::subscriber weather{"weather"};
        weather.subscribe(flashed, [&](const Flashed& f) { thundered.publish({f.distance}); });
        for (int frame = 0; frame < 10; ++frame) {
            flashed.publish({.distance = 10 + frame});
            night.end_frame({(frame + 1) * 16ms});
        }
    }
    const courier::run recorded = courier::read_run(file);

    if (courier::has_page()) { // a build without npm has none
        const std::string page = courier::report_of(recorded);
        std::fprintf(stderr, "a page of %zu bytes, with the run inside\n", page.size());
    }
    std::size_t arrows = 0;
    std::size_t frames = 0;
    std::string all;
    courier::write_trace_events(recorded, [&](std::string_view piece) { all += piece; });
    for (std::size_t at = all.find("\"ph\":\"s\""); at != std::string::npos; at = all.find("\"ph\":\"s\"", at + 1)) {
        ++arrows;
    }
    for (std::size_t at = all.find("\"cat\":\"frame\""); at != std::string::npos;
         at = all.find("\"cat\":\"frame\"", at + 1)) {
        ++frames;
    }
    std::printf("%zu events in %u frames\n", recorded.events.size(), recorded.frames());
    std::printf("the time line has %zu frames, and %zu arrows from a cause to what it caused\n", frames, arrows);
    std::filesystem::remove(file);
    return 0;
}
