// Recordings that are cut, broken or changed, and disks that are full or slow.
#include "recording_scene.hpp"

using namespace recording_scene;

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

TEST_CASE("members of a line may come in any order, and unknown ones are left alone") {
    const scratch file("order.jsonl");
    file.write(
        R"({"data":{"facts":{"a":"b"},"later":[1,{"x":2}],"format":1},"type":"wired-courier.recording","source":"/n","id":"1","specversion":"1.0"})"
        "\n"
        R"({"data":{"new":{},"at":"a.cpp:1","payload":{"x":[1,2]}},"later":"y","frame":0,"channel":1,"subject":"c","type":"wired-courier.event","id":"7"})"
        "\n");
    const run read = courier::read_run(file.path());
    CHECK(read.facts.at("a") == "b");
    REQUIRE(read.events.size() == 1);
    CHECK(read.events[0].id == 7);
    CHECK(read.payload_of(read.events[0]) == R"({"x":[1,2]})");
}

TEST_CASE("lines of kinds that a later version has are passed over, and counted") {
    const scratch file("later.jsonl");
    const std::string head =
        R"({"specversion":"1.0","id":"line-1","source":"/n","type":"wired-courier.recording","frame":0,"data":{"format":1}})"
        "\n";
    const std::string dance = R"({"type":"wired-courier.dance","frame":0})"
                              "\n";
    file.write(head + dance +
               R"({"id":"1","type":"wired-courier.event","frame":0,"channel":1,"subject":"a","data":{}})" + "\n");
    CHECK(test::contains(courier::read_run(file.path()).state(),
                         "1 event in 0 frames; 1 line of a kind that this version does not know was passed over; "));
    file.write(head + dance + dance);
    const run read = courier::read_run(file.path());
    CHECK(read.unknown_lines == 2);
    CHECK(test::contains(read.state(), "; 2 lines of kinds that this version does not know were passed over; "));
}

TEST_CASE("a file that cannot be written is said at once, a full disk by failure()") {
    ledger night("night");
    ledger other("other night");
    const auto refused = [&](const std::string& path, const std::string& why) {
        try {
            const recorder to_file(other, path);
            FAIL("nothing was thrown");
        } catch (const recording_error& error) {
            CHECK(test::contains(error.what(), path + ": cannot be written: " + why));
        }
    };
    refused("/nowhere/at/all.jsonl", "No such file or directory");
    const scratch file("two.jsonl");
    {
        const recorder first(night, file.path());
        refused(file.path(), "another recorder is writing it; give each recorder its own file");
    }
    CHECK(courier::read_run(file.path()).finished); // not emptied by the second
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
        recorder to_fifo(night, fifo.path(), {.when_behind = courier::when_behind::skip, .max_waiting = 200'000});
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

TEST_CASE("a byte order mark, as editors put it there, is no fault") {
    const scratch file("marked.jsonl");
    record_some(file);
    file.write("\xEF\xBB\xBF" + file.text());
    CHECK(courier::read_run(file.path()).finished);
}
