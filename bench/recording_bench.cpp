// What recording costs whoever publishes, and what reading a recording costs.
#include "paired.hpp"
#include "registrations.hpp"

#include <courier/audit.hpp>
#include <courier/channel.hpp>
#include <courier/ledger.hpp>
#include <courier/recording/read_run.hpp>
#include <courier/recording/recorder.hpp>
#include <courier/recording/statistics.hpp>
#include <courier/subscriber.hpp>

#include <fmt/format.h>
#include <simdjson.h>

#include <filesystem>
#include <memory>
#include <string>

namespace reef_bench {

struct Bitten {
    int barge;
    int wyrm;
    int crates;
};

} // namespace reef_bench

namespace bench {

namespace {

using reef_bench::Bitten;

struct scratch_file {
    explicit scratch_file(const char* name) : path(std::filesystem::temp_directory_path() / name) {}
    scratch_file(const scratch_file&) = delete;
    scratch_file& operator=(const scratch_file&) = delete;
    ~scratch_file() { std::filesystem::remove(path); }
    std::filesystem::path path;
};

/// A publish to one subscriber that is recorded, and the line that comes of it.
struct recorded_scene {
    recorded_scene() {
        night.attach_everything();
        bell.subscribe(bitten, [this] { ++rung; });
    }
    scratch_file file{"courier_bench_recording.jsonl"};
    courier::ledger night{"bench"};
    courier::recorder to_file{night, file.path, {.max_waiting = std::size_t{256} << 20}};
    courier::channel<Bitten> bitten{"barges.bitten"};
    courier::subscriber bell{"south bell"};
    long rung = 0;
    Bitten payload{.barge = 3, .wyrm = 12, .crates = 2};
    std::uint64_t id = 100000;
    fmt::memory_buffer line;
};

void register_recording_cost() {
    compare("recording/formatting the line with fmt/1", 500, [] {
        auto s = std::make_shared<recorded_scene>();
        auto baseline = [s] {
            s->line.clear();
            fmt::format_to(std::back_inserter(s->line),
                           R"({{"specversion":"1.0","id":"{}","source":"/{}","type":"wired-courier.{}","frame":{},)"
                           R"("subject":"{}","cause":"{}","data":{{"at":"{}:{}","in":{},"heard":[{}],)"
                           R"("payload":{{"barge":{},"wyrm":{},"crates":{}}}}}}})"
                           "\n",
                           ++s->id, "bench", "event", 12, "barges.bitten", s->id - 1, "demo/wyrms.cpp", 61, 7, 9,
                           s->payload.barge, s->payload.wyrm, s->payload.crates);
        };
        auto ours = [s] { s->bitten.publish(s->payload); };
        return std::make_shared<both<decltype(baseline), decltype(ours)>>(
            both<decltype(baseline), decltype(ours)>{baseline, ours});
    });
}

/// A recording of a hundred thousand events.
struct read_scene {
    read_scene() {
        courier::ledger night{"bench"};
        const courier::recorder to_file{night, file.path};
        night.attach_everything();
        courier::channel<Bitten> bitten{"barges.bitten"};
        courier::channel<Bitten> landed{"barges.landed"};
        courier::subscriber bell{"south bell"};
        courier::subscriber horn{"horn"};
        bell.subscribe(bitten, [&](const Bitten& e) { landed.publish(e); });
        horn.subscribe(landed, [] {});
        for (int i = 0; i < 50'000; ++i) {
            bitten.publish({.barge = i, .wyrm = i % 7, .crates = 1});
            if (i % 50 == 49) {
                night.end_frame();
            }
        }
    }
    scratch_file file{"courier_bench_reading.jsonl"};
};

void register_reading() {
    compare_times("reading for stats/simdjson, one thread/100000", 1, 30, [] {
        auto s = std::make_shared<read_scene>();
        auto baseline = [s] {
            const simdjson::padded_string bytes = simdjson::padded_string::load(s->file.path.string());
            simdjson::dom::parser parser;
            parser.threaded = false;
            std::size_t documents = 0;
            simdjson::dom::document_stream stream = parser.parse_many(bytes);
            for (auto document : stream) {
                documents += document.error() == simdjson::SUCCESS ? 1U : 0U;
            }
            benchmark::DoNotOptimize(documents);
        };
        auto ours = [s] {
            const courier::run_statistics sums = statistics_of(courier::read_run(s->file.path, {.payloads = false}));
            benchmark::DoNotOptimize(sums.events);
        };
        return std::make_shared<both<decltype(baseline), decltype(ours)>>(
            both<decltype(baseline), decltype(ours)>{baseline, ours});
    });
    // What `courier watch` shows, of events that it has read before.
    compare_times("a look at what was read/reading it/100000", 1, 30, [] {
        auto s = std::make_shared<read_scene>();
        auto known = std::make_shared<courier::run>(courier::read_run(s->file.path));
        auto baseline = [s] { benchmark::DoNotOptimize(courier::read_run(s->file.path).events.size()); };
        auto ours = [known] {
            benchmark::DoNotOptimize(courier::audit(books_of(*known)).findings.size());
            benchmark::DoNotOptimize(rates_of(*known, {}, 30).seconds);
        };
        return std::make_shared<both<decltype(baseline), decltype(ours)>>(
            both<decltype(baseline), decltype(ours)>{baseline, ours});
    });
}

} // namespace

void register_recording() {
    register_recording_cost();
    register_reading();
}

} // namespace bench
