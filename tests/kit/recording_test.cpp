// Recording and reading back.
#include "support.hpp"

#include <courier/addressed_channel.hpp>
#include <courier/kit/comparison.hpp>
#include <courier/outbox.hpp>
#include <courier/poster.hpp>
#include <courier/query.hpp>
#include <courier/state.hpp>

#include <doctest/doctest.h>
#include <nlohmann/json.hpp>

#include <algorithm>
#include <chrono>
#include <cstdlib>
#include <limits>
#include <memory>
#include <random>
#include <thread>

#include <fcntl.h>
#include <poll.h>
#include <sys/stat.h>
#include <sys/wait.h>
#include <unistd.h>

using courier::channel;
using courier::ledger;
using courier::recorder;
using courier::recording_error;
using courier::recording_fault;
using courier::run;
using test::Hailed;
using test::Landed;
using test::scratch;

namespace {

struct Dawn {};

recording_fault fault_of(const scratch& file, std::string& message) {
    try {
        static_cast<void>(courier::read_run(file.path()));
    } catch (const recording_error& error) {
        message = error.what();
        return error.code();
    }
    FAIL("nothing was thrown");
    return recording_fault::empty;
}

// A short run with a bit of everything.
void record_some(const scratch& file, int landings = 3) {
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

} // namespace

TEST_CASE("what a run consists of is recorded, and read back") {
    const scratch file("some.jsonl");
    record_some(file);
    const run read = courier::read_run(file.path());
    CHECK(read.source == "the night");
    CHECK(read.facts.at("seed") == "7");
    CHECK(read.finished);
    CHECK_FALSE(read.cut);
    CHECK(read.state() == "12 events in 3 frames");
    CHECK(read.frame_times == std::vector<std::int64_t>{500'000'000, 1'000'000'000, 1'500'000'000});
    const courier::recorded_event& first = *read.find(1);
    CHECK(read.channels[first.channel].name == "harbour.landed");
    CHECK(read.channels[first.channel].payload == "test::Landed");
    CHECK(read.payload_of(first) ==
          R"({"barge":0,"at":"south","note":"wet \"crates\"\n","crates":[{"what":"salt","weight":1.5}],"dry":null})");
    CHECK(first.heard == 1);
    CHECK(read.name_of(read.heard[first.first_heard]) == "logbook");
    const courier::recorded_event& post = *read.find(2);
    CHECK(post.is_post);
    CHECK(post.cause == 1);
    CHECK(read.texts[post.outbox] == "end of frame");
    const courier::recorded_event& hail = *read.find(4);
    CHECK(hail.cause == 3);
    CHECK(read.texts[hail.to] == "3");
    CHECK(read.maker_of(hail) == "logbook");
    CHECK(read.find(8)->frame == 1);
}

TEST_CASE("every line is a CloudEvent, whatever is in it") {
    const scratch file("events.jsonl");
    record_some(file);
    std::vector<std::string> ids;
    for (const std::string& line : file.lines()) {
        CAPTURE(line);
        const nlohmann::json event = nlohmann::json::parse(line);
        CHECK(event.at("specversion") == "1.0");
        CHECK(event.at("source").get<std::string>() == "/the%20night");
        CHECK(event.at("type").get<std::string>().starts_with("wired-courier."));
        ids.push_back(event.at("id").get<std::string>());
        CHECK_FALSE(ids.back().empty());
        for (const auto& [name, value] : event.items()) {
            if (name != "data") { // attributes: lower case, and no objects
                CHECK(name.find_first_not_of("abcdefghijklmnopqrstuvwxyz0123456789") == std::string::npos);
                CHECK((value.is_string() || value.is_number_integer() || value.is_boolean()));
                CHECK(value != "");
            }
        }
    }
    std::sort(ids.begin(), ids.end());
    CHECK(std::adjacent_find(ids.begin(), ids.end()) == ids.end());
}

TEST_CASE("payloads of all kinds keep their values, and text that is not UTF-8 does no harm") {
    const scratch file("kinds.jsonl");
    {
        ledger night("night");
        recorder to_file(night, file.path());
        night.attach_everything();
        channel<test::Unnamed> unnamed("unnamed");
        channel<test::Crate> crates("crates");
        courier::state<int> depth("depth", 4);
        courier::subscriber board("board");
        board.subscribe(depth, [] {});
        unnamed.publish({5});
        crates.publish({"\xff\xfe tar", std::numeric_limits<double>::infinity()});
        crates.publish({"", 1e300});
        depth.set(-7);
    }
    const run read = courier::read_run(file.path());
    CHECK(read.payload_of(*read.find(1)).empty());
    CHECK(test::contains(std::string{read.payload_of(*read.find(2))}, " tar\",\"weight\":null}"));
    CHECK(read.payload_of(*read.find(3)) == R"({"what":"","weight":1e+300})");
    CHECK(read.payload_of(*read.find(4)) == R"({"before":4,"after":-7})");
}

TEST_CASE("a recorder that comes late records who is there, and one that goes early leaves the ledger as it was") {
    const scratch file("late.jsonl");
    ledger night("night");
    night.attach_everything();
    channel<Dawn> dawn("dawn");
    courier::subscriber early("early");
    early.subscribe(dawn, [] {});
    early.pause();
    dawn.publish();
    night.end_frame();
    night.end_frame(); // recordings count from their own beginning
    {
        const recorder to_file(night, file.path());
        dawn.publish();
        CHECK(to_file.recorded() == 1);
        night.end_frame();
        dawn.publish();
    }
    dawn.publish();
    const run read = courier::read_run(file.path());
    REQUIRE(read.events.size() == 2);
    CHECK(read.events[0].frame == 0);
    CHECK(read.events[1].frame == 1);
    CHECK(read.frames() == 1);
    CHECK(read.subscriptions.size() == 1);
    CHECK(read.subscriptions.begin()->second.pauses.size() == 1);
    CHECK(read.missed[0].why == courier::turn::paused);
    CHECK(night.read().channels[0].published == 4);
}

TEST_CASE("a ledger that ends first ends its recording") {
    const scratch file("first.jsonl");
    std::optional<ledger> night(std::in_place, "night");
    const recorder to_file(*night, file.path());
    night->attach_everything();
    channel<Dawn> dawn("dawn");
    dawn.publish();
    night.reset();
    dawn.publish();
    CHECK(courier::read_run(file.path()).finished);
    CHECK(courier::read_run(file.path()).events.size() == 1);
}

TEST_CASE("a recording cut anywhere is read up to there, and says so") {
    const scratch whole("whole.jsonl");
    record_some(whole);
    const std::string text = whole.text();
    const std::size_t first_line = text.find('\n');
    const scratch part("part.jsonl");
    std::mt19937 chance(7);
    for (std::size_t length = first_line + 1; length + 1 < text.size(); length += 1 + chance() % 37) {
        CAPTURE(length);
        part.write(text.substr(0, length));
        const run read = courier::read_run(part.path());
        const bool at_end_of_line = text[length - 1] == '\n' || text[length] == '\n';
        CHECK(read.cut != at_end_of_line);
        CHECK_FALSE(read.finished);
        CHECK(read.lines == static_cast<std::uint64_t>(
                                std::count(text.begin(), text.begin() + static_cast<std::ptrdiff_t>(length), '\n')) +
                                (text[length - 1] != '\n' && at_end_of_line ? 1 : 0));
        CHECK(
            test::contains(read.state(), read.cut ? "; the file is cut in line " : "; the recording was not finished"));
        static_cast<void>(books_of(read));
    }
}

TEST_CASE("a program that crashes leaves what was written, in whole lines") {
    const scratch file("crash.jsonl");
    const pid_t child = fork();
    if (child == 0) {
        ledger night("night");
        recorder to_file(night, file.path());
        night.attach_everything();
        channel<Landed> landed("landed");
        for (int i = 0; i < 5000; ++i) {
            landed.publish({.barge = i});
            if (i % 100 == 99) {
                night.end_frame();
            }
        }
        to_file.flush();
        landed.publish({.barge = 5000}); // is lost
        std::_Exit(9);
    }
    int status = 0;
    waitpid(child, &status, 0);
    CHECK(WEXITSTATUS(status) == 9);
    const run read = courier::read_run(file.path());
    CHECK(read.events.size() == 5000);
    CHECK(read.frames() == 50);
    CHECK_FALSE(read.finished);
}

TEST_CASE("broken files give one clear error each") {
    const scratch file("broken.jsonl");
    std::string said;
    const auto check = [&](const std::string& text, recording_fault code, const std::string& message) {
        file.write(text);
        CHECK(fault_of(file, said) == code);
        CAPTURE(said);
        CHECK(test::contains(said, message));
        CHECK(test::contains(said, std::string{courier::id_of(code)}));
        CHECK(test::contains(said, file.path()));
    };
    const std::string head =
        R"({"specversion":"1.0","id":"line-1","source":"/n","type":"wired-courier.recording","frame":0,"data":{"format":1,"facts":{}}})"
        "\n";
    check("", recording_fault::empty, ": there is nothing in it; was the recorder ever started?");
    check("hello\nworld\n", recording_fault::foreign,
          ":1: this is no recording: the first line of one is an event of type");
    check("{\"a\":1}\n", recording_fault::foreign, ":1: this is no recording");
    check(R"({"specversion":"1.0","id":"1","source":"/x","type":"com.example.paid","data":{}})",
          recording_fault::foreign, ":1: this is no recording");
    std::string newer = head;
    newer.replace(newer.find("\"format\":1"), 10, "\"format\":9");
    check(newer, recording_fault::wrong_version,
          ":1: the recording is of format 9, and this version reads format 1; read it with the version that wrote it");
    check(head + std::string(10'000'000, 'x') + "\n", recording_fault::line_too_long,
          ":2: the line has over 1048576 bytes, more than any event");
    check(head + std::string(10'000'000, 'x'), recording_fault::line_too_long, ":2: the line has over ");
    check(head + "{\"type\":\"wired-courier.event\",\"subject\":\"\xff\xfe\"}\n", recording_fault::not_utf8,
          ":2: the line is not UTF-8");
    check(head + "{\"type\":\n{}\n", recording_fault::bad_line, ":2: the line is no event as recordings have them");
    check(head + R"({"type":"wired-courier.event","id":"x","data":{}})"
                 "\n",
          recording_fault::bad_line, ":2: 'x' is no number of an event");
    check(head + R"({"type":"wired-courier.event","id":"4","frame":4000000000,"subject":"a","data":{}})"
                 "\n",
          recording_fault::bad_line, ":2: the line says frame 4000000000, and 0 frames are over; lines are missing");
    check(head + R"({"type":"wired-courier.dance","data":{}})"
                 "\n",
          recording_fault::bad_line, ":2: the line is of type 'wired-courier.dance', which this version does not know");
    check(head + R"({"type":"wired-courier.event","id":"4"})"
                 "\n",
          recording_fault::bad_line, "has no data");
    check(head + R"({"type":"wired-courier.ended","data":[]})"
                 "\n",
          recording_fault::bad_line, "no event as recordings");
    try {
        static_cast<void>(courier::read_run("/nowhere/at/all.jsonl"));
        FAIL("nothing was thrown");
    } catch (const recording_error& error) {
        CHECK(error.code() == recording_fault::cannot_open);
        CHECK(test::contains(error.what(), "cannot read /nowhere/at/all.jsonl: No such file or directory"));
    }
    CHECK_THROWS_AS(static_cast<void>(courier::read_run("/tmp")), recording_error);
}

TEST_CASE("members of a line may come in any order, and unknown ones are left alone") {
    const scratch file("order.jsonl");
    file.write(
        R"({"data":{"facts":{"a":"b"},"later":[1,{"x":2}],"format":1},"type":"wired-courier.recording","source":"/n","id":"1","specversion":"1.0"})"
        "\n"
        R"({"data":{"new":{},"at":"a.cpp:1","payload":{"x":[1,2]}},"later":"y","frame":0,"subject":"c","type":"wired-courier.event","id":"7"})"
        "\n");
    const run read = courier::read_run(file.path());
    CHECK(read.facts.at("a") == "b");
    REQUIRE(read.events.size() == 1);
    CHECK(read.events[0].id == 7);
    CHECK(read.payload_of(read.events[0]) == R"({"x":[1,2]})");
}

TEST_CASE("a file that cannot be written is said at once, a full disk by failure()") {
    ledger night("night");
    try {
        const recorder to_file(night, "/nowhere/at/all.jsonl");
        FAIL("nothing was thrown");
    } catch (const recording_error& error) {
        CHECK(test::contains(error.what(), "cannot write /nowhere/at/all.jsonl: No such file or directory"));
    }
    recorder to_full(night, "/dev/full");
    to_full.flush();
    CHECK(test::contains(to_full.failure(), "No space left"));
}

TEST_CASE("a recorder that must not wait leaves events out, counts them, and says so in the file") {
    const scratch fifo("fifo");
    REQUIRE(mkfifo(fifo.path().c_str(), 0600) == 0);
    std::FILE* const reader = fdopen(open(fifo.path().c_str(), O_RDWR), "r"); // nobody takes anything out yet
    std::uint64_t skipped = 0;
    std::string all;
    std::thread taker;
    {
        ledger night("night");
        recorder to_fifo(night, fifo.path(), {.behind = courier::when_behind::skip, .most_waiting = 200'000});
        night.attach_everything();
        channel<Landed> landed("landed");
        for (int i = 0; i < 20'000; ++i) {
            landed.publish({.barge = i});
        }
        night.end_frame();
        skipped = to_fifo.skipped();
        CHECK(skipped > 10'000);
        CHECK(to_fifo.recorded() + skipped == 20'000);
        taker = std::thread([&] {
            char bytes[4096];
            pollfd ready{fileno(reader), POLLIN, 0};
            while ((!test::contains(all, "wired-courier.finished") || all.back() != '\n') &&
                   poll(&ready, 1, 20'000) > 0) {
                all.append(bytes, static_cast<std::size_t>(read(ready.fd, bytes, sizeof bytes)));
            }
        });
        while (to_fifo.recorded() + to_fifo.skipped() < 20'001) {
            std::this_thread::sleep_for(std::chrono::milliseconds(5));
            landed.publish({.barge = -1});
        }
    }
    taker.join();
    const scratch file("skipped.jsonl");
    file.write(all);
    const run read = courier::read_run(file.path());
    CHECK(read.skipped >= skipped);
    CHECK(test::contains(read.state(), " more were left out, as the disk was slower than the game"));
    std::fclose(reader);
}

TEST_CASE("a hundred thousand events are recorded and read back, none lost") {
    const scratch file("many.jsonl");
    {
        ledger night("night");
        const recorder to_file(night, file.path(), {.most_waiting = 100'000});
        night.attach_everything();
        channel<test::Hailed> hailed("hailed");
        courier::subscriber a("a");
        a.subscribe(hailed, [] {});
        for (int i = 0; i < 100'000; ++i) {
            hailed.publish({.order = i});
            if (i % 1000 == 0) {
                night.end_frame();
            }
        }
        CHECK(to_file.recorded() == 100'000);
        CHECK(to_file.skipped() == 0);
    }
    std::uint64_t told = 0;
    const run read = courier::read_run(file.path(), {.progress = [&](std::uint64_t bytes, std::uint64_t of) {
                                           CHECK(bytes <= of);
                                           ++told;
                                       }});
    CHECK(told != 0);
    CHECK(read.events.size() == 100'000);
    CHECK(read.events.back().id == 100'000);
    CHECK(read.payload_of(read.events.back()) == R"({"order":99999})");
}

TEST_CASE("the books of a recording are those of the ledger") {
    const scratch file("books.jsonl");
    courier::books live;
    {
        ledger night("night");
        std::optional<recorder> to_file(std::in_place, night, file.path());
        night.attach_everything();
        channel<Landed> landed("landed");
        courier::addressed_channel<Hailed> hailed("hailed");
        auto wreck = std::make_unique<channel<Dawn>>("wreck");
        courier::outbox later("later");
        const courier::poster<Landed> one(later, landed, {.waiting = courier::keep::one});
        courier::subscriber a("a");
        courier::subscriber b("b");
        courier::gate shut("shut", false);
        a.subscribe(landed,
                    [&](const Landed& e) { return e.barge == 2 ? courier::verdict::stop : courier::verdict::go_on; });
        b.subscribe(landed, [] {});
        b.subscribe(landed, [] {}, {.during = shut});
        b.subscribe(hailed.at(1), [] {});
        a.subscribe(*wreck, [] {});
        for (int i = 0; i < 6; ++i) {
            landed.publish({.barge = i});
            one.post({.barge = 10});
            one.post({.barge = 11});
            hailed.publish_to(i % 2, {});
            later.deliver();
            if (i == 3) {
                b.pause();
                wreck.reset();
            }
            night.end_frame();
        }
        live = night.read();
        to_file.reset();
    }
    const courier::books recorded = books_of(courier::read_run(file.path()));
    REQUIRE(recorded.channels.size() == live.channels.size());
    for (std::size_t i = 0; i < live.channels.size(); ++i) {
        const courier::channel_books& x = live.channels[i];
        const courier::channel_books& y = recorded.channels[i];
        CAPTURE(x.name);
        CHECK(x.name == y.name);
        CHECK(x.open == y.open);
        CHECK(x.published == y.published);
        CHECK(x.deliveries == y.deliveries);
        CHECK(x.unheard == y.unheard);
        CHECK(x.stopped == y.stopped);
        CHECK(x.vacant == y.vacant);
        CHECK(x.posted == y.posted);
        CHECK(x.merged == y.merged);
        CHECK(x.frames == y.frames);
        CHECK(x.most_in_frame == y.most_in_frame);
    }
    REQUIRE(recorded.subscriptions.size() == live.subscriptions.size());
    for (std::size_t i = 0; i < live.subscriptions.size(); ++i) {
        CAPTURE(i);
        CHECK(live.subscriptions[i].turns.of == recorded.subscriptions[i].turns.of);
        CHECK(live.subscriptions[i].where == recorded.subscriptions[i].where);
        CHECK(live.subscriptions[i].published_since == recorded.subscriptions[i].published_since);
    }
    REQUIRE(recorded.publishers.size() == live.publishers.size());
    CHECK(recorded.parties.size() == live.parties.size());
    CHECK(recorded.parties[0].lost == 1);
    CHECK(recorded.orders.size() == live.orders.size());
    CHECK(recorded.orders[0].times == live.orders[0].times);
}

TEST_CASE("what a handler destroys is recorded as it was when it was published") {
    const scratch file("destroyed.jsonl");
    {
        ledger night("night");
        const recorder to_file(night, file.path());
        night.attach_everything();
        courier::addressed_channel<Hailed, std::string> hailed("hailed");
        auto name = std::make_unique<std::string>("a name that is too long to lie inside of its string");
        auto order = std::make_unique<Hailed>(Hailed{.order = 5});
        const courier::subscription listener = hailed.subscribe(
            [&] {
                hailed.publish_to("inner", {.order = 6});
                name.reset();
                order.reset();
            },
            {.times = 1});
        hailed.publish_to(*name, *order);
        auto depth = std::make_unique<courier::state<std::string>>("depth", "shallow");
        const courier::subscription last =
            depth->subscribe([&](const courier::change<std::string>&) { depth.reset(); });
        depth->set("deep enough for what is too long to lie inside");
    }
    const run read = courier::read_run(file.path());
    REQUIRE(read.events.size() == 3);
    CHECK(read.texts[read.find(1)->to] == "a name that is too long to lie inside of its string");
    CHECK(read.payload_of(*read.find(1)) == R"({"order":5})");
    CHECK(read.payload_of(*read.find(2)) == R"({"order":6})");
    CHECK(read.payload_of(*read.find(3)) ==
          R"({"before":"shallow","after":"deep enough for what is too long to lie inside"})");
}

TEST_CASE("a recorder may be made and destroyed by a handler") {
    const scratch first("handler_1.jsonl");
    const scratch second("handler_2.jsonl");
    {
        ledger night("night");
        std::optional<recorder> to_file(std::in_place, night, first.path());
        night.attach_everything();
        channel<Hailed> hailed("hailed");
        const courier::subscription listener = hailed.subscribe([&](const Hailed& e) {
            if (e.order == 2) {
                to_file.reset();
                to_file.emplace(night, second.path());
                hailed.publish({.order = 3});
            }
        });
        hailed.publish({.order = 1});
        hailed.publish({.order = 2}); // in neither: the one it began in is gone
    }
    const run one = courier::read_run(first.path());
    const run other = courier::read_run(second.path());
    CHECK(one.events.size() == 1);
    CHECK(one.finished);
    REQUIRE(other.events.size() == 1);
    CHECK(other.payload_of(other.events[0]) == R"({"order":3})");
}
