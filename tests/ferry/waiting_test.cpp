// What waits for a broker that is away: in memory, and in a file.
#include "two_sides.hpp"

#include <unistd.h>

namespace {

using namespace test;
using courier::ferry_code;
using courier::guarantee;

std::filesystem::path scratch(const std::string& name) {
    return std::filesystem::temp_directory_path() / ("ferry-" + name + "-" + std::to_string(::getpid()) + ".jsonl");
}

} // namespace

TEST_CASE("while the broker is away, memory has its bound, and what is let go is counted") {
    reef::local_broker broker;
    courier::ferry_options options = at(broker, "near");
    options.max_waiting = 64 << 10;
    two_sides all(options, at(broker, "far"), guarantee::at_least_once);
    courier::channel<Landed> unsure("unsure");
    courier::state<int> oil("oil", 1);
    all.near.send(unsure, "t/unsure", {.guarantee = guarantee::at_most_once});
    all.near.send(oil, "t/oil");
    courier::state<int> seen("seen", 0);
    all.far.receive(seen, "t/oil");
    REQUIRE(connected({&all.near, &all.far}));
    broker.end();
    REQUIRE(until({&all.near, &all.far}, [&] { return !is_there(all.near) && !is_there(all.far); }));
    for (int i = 0; i < 100; ++i) {
        all.publish(20);
        unsure.publish({});
        oil.set(100 + i);
        all.near.take_in();
        std::this_thread::sleep_for(1ms);
    }
    const auto lost = [&](ferry_code why) { return all.near.report().of(why); };
    CHECK(until({&all.near}, [&] { return lost(ferry_code::away) == 100; }));
    CHECK(lost(ferry_code::no_room) > 1000);
    broker.start();
    CHECK(until({&all.near, &all.far},
                [&] { return all.got.size() + lost(ferry_code::no_room) >= 2000 && seen.glance() == 199; }));
    CHECK(all.is_in_order());
    CHECK(all.got.size() > 50);
    all.publish(1);
    CHECK(until({&all.near, &all.far}, [&] { return !all.got.empty() && all.got.back() == all.newest; }));
}

TEST_CASE("of a channel that the broker keeps, all that was promised crosses, and not the latest only") {
    reef::local_broker broker;
    courier::channel<Landed> here("here");
    courier::channel<Landed> there("there");
    courier::ferry near(at(broker, "near"));
    courier::ferry far(at(broker, "far"));
    near.send(here, "t/landed", {.guarantee = guarantee::exactly_once, .kept_by_broker = true});
    far.receive(there, "t/landed", {.guarantee = guarantee::exactly_once});
    std::vector<int> got;
    const auto in = there.subscribe([&](const Landed& one) { got.push_back(one.barge); });
    REQUIRE(connected({&near, &far}));
    std::vector<int> all;
    const auto publish = [&](int one) {
        here.publish({one, 0});
        all.push_back(one);
    };
    publish(1);
    publish(2);
    REQUIRE(until({&near, &far}, [&] { return got == all; }));
    broker.end();
    REQUIRE(until({&near, &far}, [&] { return !is_there(near) && !is_there(far); }));
    publish(3);
    publish(4);
    near.take_in();
    publish(5);
    near.take_in();
    broker.start();
    CHECK(until({&near, &far}, [&] { return got.size() >= all.size(); }));
    look_after({&near, &far}, 50ms);
    CHECK(got == all);
}

TEST_CASE("what waits in a file outlives its process, in order and once") {
    const std::filesystem::path file = scratch("outlives");
    std::filesystem::remove(file);
    reef::local_broker broker;
    courier::channel<Landed> there("there");
    courier::ferry far(at(broker, "far"));
    far.receive(there, "t/landed", {.guarantee = guarantee::exactly_once});
    std::vector<int> got;
    const auto in = there.subscribe([&](const Landed& one) { got.push_back(one.barge); });
    REQUIRE(connected({&far}));
    broker.end();
    courier::ferry_options options = at(broker, "near");
    options.waiting_file = file;
    options.max_waiting = 16 << 10; // far less than what waits
    options.ending = 50ms;
    int newest = 0;
    for (int life = 0; life < 3; ++life) {
        courier::channel<Landed> here("here");
        courier::ferry near(options);
        near.send(here, "t/landed",
                  {.guarantee = guarantee::exactly_once,
                   .encoding = life == 1 ? courier::encoding::cbor : courier::encoding::json});
        for (int i = 0; i < 200; ++i) {
            here.publish({++newest, 0});
            look_after({&near}, i % 10 == 0 ? 3ms : 0ms);
        }
        look_after({&near}, 20ms);
        CHECK(near.report().of(ferry_code::no_room) == 0);
    }
    CHECK(std::filesystem::file_size(file) > 600 * 100);
    broker.start();
    {
        courier::channel<Landed> here("here");
        courier::ferry near(options);
        near.send(here, "t/landed", {.guarantee = guarantee::exactly_once});
        for (int i = 0; i < 50; ++i) {
            here.publish({++newest, 0});
        }
        CHECK(until({&near, &far}, [&] { return got.size() == static_cast<std::size_t>(newest); }));
        CHECK(until({&near, &far}, [&] { return std::filesystem::file_size(file) == 0; }));
        here.publish({++newest, 0});
        CHECK(until({&near, &far}, [&] { return got.size() == static_cast<std::size_t>(newest); }));
        CHECK(std::filesystem::file_size(file) == 0);
    }
    CHECK(std::is_sorted(got.begin(), got.end()));
    CHECK(std::adjacent_find(got.begin(), got.end()) == got.end());
    std::filesystem::remove(file);
}

TEST_CASE("a full file, or a full disk, is told, and what was taken before is there") {
    reef::local_broker broker;
    two_sides sides(at(broker, "unused-1"), at(broker, "far"), guarantee::at_least_once);
    REQUIRE(connected({&sides.far}));
    broker.end();
    for (const char* const where : {"small", "/dev/full"}) {
        CAPTURE(std::string(where));
        const std::filesystem::path file = *where == '/' ? std::filesystem::path(where) : scratch(where);
        courier::ferry_options options = at(broker, "near");
        options.waiting_file = file;
        options.max_in_file = 16 << 10;
        options.max_waiting = 256 << 10; // all that is published, as long as it is packed
        courier::channel<Landed> here("here");
        courier::ferry near(options);
        near.send(here, "t/landed");
        const loss_list lost(near);
        sides.got.clear();
        for (int i = 1; i <= 3000; ++i) {
            here.publish({i, 0});
            look_after({&near}, i % 100 == 0 ? 2ms : 0ms);
        }
        REQUIRE(until({&near}, [&] { return lost.of(ferry_code::file_full) > 500; }));
        CHECK(lost.of(ferry_code::no_room) == 0);
        broker.start();
        REQUIRE(until({&near, &sides.far}, [&] { return sides.got.size() + lost.of(ferry_code::file_full) == 3000; }));
        CHECK(sides.is_in_order());
        CHECK(sides.got.size() > 20);
        CHECK(sides.got.front() == 1);
        broker.end();
        if (*where != '/') {
            std::filesystem::remove(file);
        }
    }
}

TEST_CASE("a waiting file that was damaged costs its damaged lines, and belongs to one process") {
    const reef::local_broker broker;
    const std::filesystem::path file = scratch("damaged");
    const std::string good = R"({"specversion":"1.0","id":"aaaaaaaaaaaaaaaa-n0-1-0","source":"near",)"
                             R"("type":"wired-courier.payload","datacontenttype":"application/json",)"
                             R"("mqtttopic":"t/landed","data":{"barge":7}})";
    std::ofstream(file) << "no line of a ferry\n{}\n\n" << good << "\n" << good.substr(0, 90);
    courier::channel<Landed> there("there");
    courier::ferry far(at(broker, "far"));
    far.receive(there, "t/landed");
    std::vector<int> got;
    const auto in = there.subscribe([&](const Landed& one) { got.push_back(one.barge); });
    REQUIRE(connected({&far}));
    courier::ferry_options options = at(broker, "near");
    options.waiting_file = file;
    courier::ferry near(options);
    CHECK(until({&near, &far}, [&] { return got.size() == 1; }));
    CHECK(got == std::vector<int>{7});
    CHECK(until({&near}, [&] { return near.report().of(ferry_code::bad_message) == 3; }));
    options.process = "another";
    CHECK_THROWS_AS(courier::ferry{options}, courier::ferry_error);
    std::filesystem::remove(file);
}

TEST_CASE("the end of a ferry takes its time and no more, and sends what it can") {
    reef::local_broker broker;
    courier::channel<Landed> there("there");
    courier::ferry far(at(broker, "far"));
    far.receive(there, "t/landed");
    int got = 0;
    const auto in = there.subscribe([&] { ++got; });
    REQUIRE(connected({&far}));
    {
        courier::ferry_options patient = at(broker, "near");
        patient.ending = 10s; // at most
        courier::channel<Landed> here("here");
        courier::ferry near(patient);
        near.send(here, "t/landed");
        here.publish({});
        here.publish({});
    }
    CHECK(until({&far}, [&] { return got == 2; }));
    broker.end();
    const auto begun = std::chrono::steady_clock::now();
    {
        courier::channel<Landed> here("here");
        courier::ferry near(at(broker, "near"));
        near.send(here, "t/landed");
        here.publish({});
    }
    CHECK(std::chrono::steady_clock::now() - begun < 5s); // 750 ms, on a machine that has nothing else to do
}
