// Runs that are carried, forgotten and told apart.
#include "recording_scene.hpp"

#include <courier/data/json.hpp>
#include <courier/recording/lanes.hpp>
#include <courier/recording/route_map.hpp>
#include <courier/recording/run_image.hpp>
#include <courier/recording/statistics.hpp>

using namespace recording_scene;

namespace {

/// All that is told of a run, as one text.
std::string told(const run& of) {
    std::string all =
        courier::to_json(route_map(of)) + courier::to_json(statistics_of(of)) + courier::to_json(rates_of(of, {}, 10));
    std::vector<const courier::recorded_event*> events;
    for (const courier::recorded_event& one : of.events) {
        events.push_back(&one);
        all += in_a_sentence(of, chain_of(of, one)) + std::string(of.payload_of(one)) + "\n";
    }
    all += courier::to_json(lanes_of(of, events));
    for (const courier::recorded_channel& channel : of.channels) {
        for (const char* const party : {"logbook", "barge 3", "nobody"}) {
            all += courier::to_json(why_not_path(of, {.channel = channel.name, .party = party}));
        }
    }
    return all;
}

} // namespace

TEST_CASE("an image holds all that is told of a run; what is cut or changed is no image") {
    const scratch file("image.jsonl");
    record_some(file, 20);
    const run read = courier::read_run(file.path());
    const std::string image = courier::image_of(read);
    run back;
    REQUIRE(courier::read_image(image, back));
    CHECK(told(back) == told(read));
    for (std::size_t size = 0; size < image.size(); size += 1 + size / 16) {
        run cut;
        CHECK_FALSE(courier::read_image(std::string_view(image).substr(0, size), cut));
    }
    for (std::size_t at = 0; at < image.size(); at += 3) { // whatever it says, nothing outside is looked at
        std::string changed = image;
        changed[at] = static_cast<char>(changed[at] ^ 0xFF);
        run other;
        if (courier::read_image(changed, other)) {
            CHECK_FALSE(told(other).empty());
        }
    }
}

TEST_CASE("a run that goes on for ever keeps its newest events, and counts all") {
    std::string lines;
    {
        ledger night("night");
        recorder to_memory(night, [&](std::string_view some) { lines += some; });
        night.attach_everything();
        channel<Hailed> hailed("hailed");
        courier::subscriber barge("barge");
        courier::subscription early = hailed.subscribe([](const Hailed&) {});
        barge.subscribe(hailed, [](const Hailed&) {});
        for (int i = 0; i < 1000; ++i) {
            if (i == 10) {
                early.end();
            }
            hailed.publish({.order = i});
            night.end_frame(std::chrono::milliseconds(10 * (i + 1)));
        }
        to_memory.flush();
    }
    run whole;
    run kept;
    courier::run_builder all(whole, "all");
    courier::run_builder some(kept, "some", {.joined_late = true});
    std::size_t at = 0;
    for (std::size_t line = 0; at < lines.size(); ++line) {
        const std::size_t end = lines.find('\n', at);
        all.line(std::string_view(lines).substr(at, end - at));
        some.line(std::string_view(lines).substr(at, end - at));
        at = end + 1;
        if (line % 50 == 0) {
            some.done();
            some.keep_newest(100);
            CHECK(kept.events.size() <= 100);
        }
    }
    all.done();
    some.done();
    some.keep_newest(100);
    CHECK(kept.events.size() + kept.forgotten == whole.events.size());
    CHECK(kept.subscriptions.size() == 1); // the early one is of frames that are gone
    CHECK(whole.subscriptions.size() == 2);
    CHECK(kept.frames() == whole.frames());
    CHECK(kept.begin_of(kept.frames()) == whole.begin_of(whole.frames()));
    const courier::recorded_event& newest = kept.events.back();
    CHECK(kept.payload_of(newest) == whole.payload_of(whole.events.back()));
    CHECK(kept.name_of(kept.heard[newest.first_heard]) == "barge");
    CHECK(courier::to_json(books_of(kept).channels) == courier::to_json(books_of(whole).channels));
    CHECK(courier::to_json(rates_of(kept, {}, 20)) == courier::to_json(rates_of(whole, {}, 20)));
    CHECK(rates_of(kept, {}, 1000).seconds < 2); // the eight seconds that it forgot do not count
}

TEST_CASE("two channels of one name and different payloads stay two, live and from a file") {
    const scratch file("twins.jsonl");
    ledger night("night");
    std::string live;
    {
        recorder to_file(night, file.path());
        night.attach_everything();
        channel<Hailed> one("moved");
        channel<Landed> other("moved");
        courier::subscriber board("board");
        board.subscribe(one, [](const Hailed&) {});
        for (int i = 0; i < 100; ++i) {
            one.publish({.order = i});
            other.publish({.barge = i});
            night.end_frame();
        }
        live = courier::audit(night.read()).text();
    }
    const run read = courier::read_run(file.path());
    CHECK(read.channels.size() == 2);
    CHECK(read.channels[0].deliveries == 100);
    CHECK(read.channels[1].unheard == 100);
    CHECK(courier::audit(books_of(read)).text() == live);
}

TEST_CASE("what takes the lines may fail: recording stops then, and says why") {
    ledger night("night");
    night.attach_everything();
    recorder broken(night, [](std::string_view) { throw std::runtime_error("the line is down"); });
    channel<Hailed> hailed("hailed");
    hailed.publish({.order = 1});
    broken.flush();
    CHECK(broken.failure() == "the line is down");
    CHECK_FALSE(broken.over());
}
