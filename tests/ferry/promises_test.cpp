// What is promised while brokers die, links break and peers are slow.
#include "support.hpp"

#include <doctest/doctest.h>

#include <filesystem>
#include <fstream>
#include <map>

#include <unistd.h>

namespace {

using namespace test;
using courier::crossing_fault;
using courier::promise;

/// What came, in its order, on a topic that is sent with a promise.
struct two_sides {
    two_sides(courier::ferry_options near_options, courier::ferry_options far_options, promise promised)
        : near(std::move(near_options)), far(std::move(far_options)) {
        near.send(here, "t/landed", {.promised = promised});
        far.receive(there, "t/landed", {.promised = promised});
        in.subscribe(there, [this](const Landed& one) { got.push_back(one.barge); });
    }
    void publish(int count) {
        for (int i = 0; i < count; ++i) {
            here.publish({++newest, 0});
        }
    }
    [[nodiscard]] bool has_all() const {
        std::vector<bool> seen(static_cast<std::size_t>(newest) + 1);
        for (const int one : got) {
            seen[static_cast<std::size_t>(one)] = true;
        }
        return std::count(seen.begin() + 1, seen.end(), true) == newest;
    }
    [[nodiscard]] bool is_in_order() const { return std::is_sorted(got.begin(), got.end()); }
    [[nodiscard]] std::size_t twice() const {
        std::map<int, int> times;
        std::size_t more = 0;
        for (const int one : got) {
            more += ++times[one] > 1 ? 1U : 0U;
        }
        return more;
    }
    /// In order, when each is counted as it came first.
    [[nodiscard]] bool first_are_in_order() const {
        int highest = 0;
        std::vector<bool> seen(static_cast<std::size_t>(newest) + 1);
        for (const int one : got) {
            const bool is_first = !seen[static_cast<std::size_t>(one)];
            seen[static_cast<std::size_t>(one)] = true;
            if (is_first && one < highest) {
                return false;
            }
            highest = std::max(highest, one);
        }
        return true;
    }

    courier::channel<Landed> here{"here"};
    courier::channel<Landed> there{"there"};
    courier::ferry near;
    courier::ferry far;
    std::vector<int> got;
    int newest = 0;
    courier::subscriber in{"far"};
};

std::filesystem::path scratch(const std::string& name) {
    return std::filesystem::temp_directory_path() / ("ferry-" + name + "-" + std::to_string(::getpid()) + ".jsonl");
}

} // namespace

TEST_CASE("a broker that is killed and started again costs nothing that was promised") {
    for (const promise promised : {promise::at_least_once, promise::exactly_once}) {
        for (const bool gently : {false, true}) {
            CAPTURE(gently);
            reef::local_broker broker;
            two_sides all(at(broker, "near"), at(broker, "far"), promised);
            REQUIRE(connected({&all.near, &all.far}));
            look_after({&all.near, &all.far}, 2500ms); // so that the broker has saved who is there
            for (int round = 0; round < 4; ++round) {
                for (int i = 0; i < 40; ++i) {
                    all.publish(5);
                    look_after({&all.near, &all.far}, 2ms);
                }
                gently ? broker.end() : broker.kill();
                for (int i = 0; i < 5; ++i) {
                    all.publish(5);
                    look_after({&all.near, &all.far}, 2ms);
                }
                broker.start();
            }
            all.publish(50);
            CHECK(until({&all.near, &all.far}, [&] { return all.has_all(); }));
            look_after({&all.near, &all.far}, 100ms);
            CHECK(all.first_are_in_order());
            CHECK(all.near.report().connections >= 4);
            CHECK(all.far.report().of(crossing_fault::missing) == 0);
            if (promised == promise::exactly_once) {
                CHECK(all.twice() == 0);
                CHECK(all.is_in_order());
            }
        }
    }
}

TEST_CASE("a link that breaks in the middle of a message costs nothing that was promised") {
    const reef::local_broker broker;
    for (const bool by_sender : {true, false}) {
        middle between(broker.port());
        courier::ferry_options near = at(broker, "near");
        courier::ferry_options far = at(broker, "far");
        (by_sender ? near : far).port = between.port();
        two_sides all(near, far, promise::exactly_once);
        REQUIRE(connected({&all.near, &all.far}));
        for (int i = 0; i < 40; ++i) {
            const int cuts = between.cuts();
            between.cut_after(by_sender == (i % 2 == 0), 3 + 37 * i % 301);
            all.publish(10);
            REQUIRE(until({&all.near, &all.far}, [&] { return between.cuts() > cuts || all.has_all(); }));
            REQUIRE(until({&all.near, &all.far}, [&] { return is_there(all.near) && is_there(all.far); }));
        }
        CHECK(until({&all.near, &all.far}, [&] { return all.has_all(); }));
        look_after({&all.near, &all.far}, 100ms);
        CHECK(all.twice() == 0);
        CHECK(all.is_in_order());
        CHECK(between.cuts() > 20);
    }
}

TEST_CASE("what comes again is recognised where once was promised, and handed on where it was not") {
    const reef::local_broker broker;
    for (const promise promised : {promise::at_least_once, promise::exactly_once}) {
        courier::channel<Landed> there("there");
        courier::ferry far(at(broker, "far"));
        far.receive(there, "t/landed", {.promised = promised});
        int got = 0;
        const auto in = there.subscribe([&] { ++got; });
        REQUIRE(connected({&far}));
        other_program other(broker.port(), "other");
        auto event = event_of("t/landed", R"({"barge":1,"crates":2})");
        const auto send = [&](const std::string& id) {
            event.properties["id"] = id;
            other.send(event);
        };
        for (int i = 0; i < 3; ++i) {
            send("aaaaaaaaaaaaaaaa-n0-1-0");
            send("aaaaaaaaaaaaaaaa-n0-2-0");
            send("bbbbbbbbbbbbbbbb-n0-1-0"); // another run of the same process
            send("not-of-a-ferry");
        }
        REQUIRE(until({&far}, [&] { return far.report().arrived + far.report().known_already == 12; }));
        look_after({&far}, 20ms);
        CHECK(got == (promised == promise::exactly_once ? 4 : 12));
    }
}

TEST_CASE("payloads that did not come are told") {
    const reef::local_broker broker;
    courier::channel<Landed> there("there");
    courier::ferry far(at(broker, "far"));
    far.receive(there, "t/landed", {.promised = promise::at_most_once});
    const loss_list lost(far);
    REQUIRE(connected({&far}));
    other_program other(broker.port(), "other");
    auto event = event_of("t/landed", "{}");
    for (const char* const id : {"aaaaaaaaaaaaaaaa-n0-5-0", "aaaaaaaaaaaaaaaa-n0-6-0", "aaaaaaaaaaaaaaaa-n0-10-0",
                                 "aaaaaaaaaaaaaaaa-g1-5-0", "aaaaaaaaaaaaaaaa-g1-50-0"}) {
        event.properties["id"] = id;
        other.send(event);
    }
    CHECK(until({&far}, [&] { return lost.of(crossing_fault::missing) == 3; }));
    CHECK(far.report().arrived == 5);
}

TEST_CASE("of two processes with one name the first one is turned off, and says so") {
    const reef::local_broker broker;
    courier::ferry_options options = at(broker, "reef-1");
    options.processes_topic = "processes";
    courier::ferry first(options);
    REQUIRE(connected({&first}));
    courier::ferry second(options);
    CHECK(until({&first, &second}, [&] { return first.link().glance().is == courier::link_phase::turned_off; }));
    CHECK(first.link().glance().why == "another process has come with the name 'reef-1'");
    CHECK(until({&first, &second}, [&] { return is_there(second); }));
    look_after({&first, &second}, 300ms);
    CHECK(is_there(second));
    CHECK(second.report().connections <= 3);
    CHECK(first.report().connections <= 3);
}

TEST_CASE("what is for a process that is away waits for it") {
    const reef::local_broker broker;
    courier::channel<Landed> here("here");
    courier::ferry near(at(broker, "near"));
    near.send(here, "t/landed");
    {
        courier::channel<Landed> there("there");
        courier::ferry far(at(broker, "far"));
        far.receive(there, "t/landed");
        REQUIRE(connected({&near, &far}));
    }
    for (int i = 1; i <= 20; ++i) {
        here.publish({i, 0});
    }
    REQUIRE(until({&near}, [&] { return near.report().confirmed >= 20; }));
    courier::channel<Landed> there("there");
    courier::ferry far(at(broker, "far"));
    std::this_thread::sleep_for(100ms); // whatever the game does before it says what it receives
    far.receive(there, "t/landed");
    std::vector<int> got;
    const auto in = there.subscribe([&](const Landed& one) { got.push_back(one.barge); });
    CHECK(until({&near, &far}, [&] { return got.size() == 20; }));
    CHECK(std::is_sorted(got.begin(), got.end()));
    CHECK(far.report().unexpected == 0);
}

TEST_CASE("a game that takes in slowly loses what may be lost, and nothing else") {
    const reef::local_broker broker;
    courier::channel<Landed> sure("sure");
    courier::channel<Landed> unsure("unsure");
    courier::ferry near(at(broker, "near"));
    near.send(sure, "t/sure", {.promised = promise::exactly_once});
    near.send(unsure, "t/unsure", {.promised = promise::at_most_once});
    courier::ferry_options slow = at(broker, "far");
    slow.most_arriving = 16;
    slow.arrivals_a_frame = 8;
    courier::channel<Landed> sure_there("sure there");
    courier::channel<Landed> unsure_there("unsure there");
    courier::ferry far(slow);
    far.receive(sure_there, "t/sure", {.promised = promise::exactly_once});
    far.receive(unsure_there, "t/unsure", {.promised = promise::at_most_once});
    std::vector<int> got;
    int got_unsure = 0;
    const auto in = sure_there.subscribe([&](const Landed& one) { got.push_back(one.barge); });
    const auto in_unsure = unsure_there.subscribe([&] { ++got_unsure; });
    REQUIRE(connected({&near, &far}));
    constexpr int all = 2000;
    for (int i = 1; i <= 500; ++i) {
        unsure.publish({i, 0});
    }
    REQUIRE(until({&near}, [&] { return far.report().of(crossing_fault::arrivals_full) > 0; })); // the other one sleeps
    for (int i = 1; i <= all; ++i) {
        sure.publish({i, 0});
    }
    look_after({&near}, 200ms);
    std::size_t most = 0;
    CHECK(until({&near}, [&] {
        const std::size_t before = got.size() + static_cast<std::size_t>(got_unsure);
        far.take_in();
        most = std::max(most, got.size() + static_cast<std::size_t>(got_unsure) - before);
        return got.size() == all;
    }, 20s));
    CHECK(most <= 8);
    CHECK(std::is_sorted(got.begin(), got.end()));
    CHECK(far.report().of(crossing_fault::arrivals_full) + static_cast<std::uint64_t>(got_unsure) == 500);
}

TEST_CASE("a peer behind a link that stalls gets everything in the end") {
    const reef::local_broker broker;
    middle between(broker.port());
    courier::ferry_options far = at(broker, "far");
    far.port = between.port();
    two_sides all(at(broker, "near"), far, promise::exactly_once);
    REQUIRE(connected({&all.near, &all.far}));
    for (int i = 0; i < 5; ++i) {
        between.hold(true);
        all.publish(300);
        look_after({&all.near, &all.far}, 40ms);
        between.hold(false);
        look_after({&all.near, &all.far}, 20ms);
    }
    CHECK(until({&all.near, &all.far}, [&] { return all.has_all(); }, 20s));
    CHECK(all.is_in_order());
    CHECK(all.twice() == 0);
}

TEST_CASE("while the broker is away, memory has its bound, and what is let go is counted") {
    reef::local_broker broker;
    courier::ferry_options options = at(broker, "near");
    options.most_waiting = 64 << 10;
    two_sides all(options, at(broker, "far"), promise::at_least_once);
    courier::channel<Landed> unsure("unsure");
    courier::state<int> oil("oil", 1);
    all.near.send(unsure, "t/unsure", {.promised = promise::at_most_once});
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
    const auto lost = [&](crossing_fault why) { return all.near.report().of(why); };
    CHECK(until({&all.near}, [&] { return lost(crossing_fault::away) == 100; }));
    CHECK(lost(crossing_fault::no_room) > 1000);
    broker.start();
    CHECK(until({&all.near, &all.far}, [&] {
        return all.got.size() + lost(crossing_fault::no_room) >= 2000 && seen.glance() == 199;
    }));
    CHECK(all.is_in_order());
    CHECK(all.got.size() > 50);
    all.publish(1);
    CHECK(until({&all.near, &all.far}, [&] { return !all.got.empty() && all.got.back() == all.newest; }));
}

TEST_CASE("what waits in a file outlives its process, in order and once") {
    const std::filesystem::path file = scratch("outlives");
    std::filesystem::remove(file);
    reef::local_broker broker;
    courier::channel<Landed> there("there");
    courier::ferry far(at(broker, "far"));
    far.receive(there, "t/landed", {.promised = promise::exactly_once});
    std::vector<int> got;
    const auto in = there.subscribe([&](const Landed& one) { got.push_back(one.barge); });
    REQUIRE(connected({&far}));
    broker.end();
    courier::ferry_options options = at(broker, "near");
    options.waiting_file = file;
    options.most_waiting = 16 << 10; // far less than what waits
    options.ending = 50ms;
    int newest = 0;
    for (int life = 0; life < 3; ++life) {
        courier::channel<Landed> here("here");
        courier::ferry near(options);
        near.send(here, "t/landed",
                  {.promised = promise::exactly_once,
                   .as = life == 1 ? courier::encoding::cbor : courier::encoding::json});
        for (int i = 0; i < 200; ++i) {
            here.publish({++newest, 0});
            look_after({&near}, i % 10 == 0 ? 3ms : 0ms);
        }
        look_after({&near}, 20ms);
        CHECK(near.report().of(crossing_fault::no_room) == 0);
    }
    CHECK(std::filesystem::file_size(file) > 600 * 100);
    broker.start();
    {
        courier::channel<Landed> here("here");
        courier::ferry near(options);
        near.send(here, "t/landed", {.promised = promise::exactly_once});
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
    two_sides sides(at(broker, "unused-1"), at(broker, "far"), promise::at_least_once);
    REQUIRE(connected({&sides.far}));
    broker.end();
    for (const char* const where : {"small", "/dev/full"}) {
        CAPTURE(where);
        const std::filesystem::path file = *where == '/' ? std::filesystem::path(where) : scratch(where);
        courier::ferry_options options = at(broker, "near");
        options.waiting_file = file;
        options.most_in_file = 16 << 10;
        options.most_waiting = 16 << 10;
        courier::channel<Landed> here("here");
        courier::ferry near(options);
        near.send(here, "t/landed");
        const loss_list lost(near);
        sides.got.clear();
        for (int i = 1; i <= 1000; ++i) {
            here.publish({i, 0});
            look_after({&near}, i % 10 == 0 ? 2ms : 0ms);
        }
        REQUIRE(until({&near}, [&] { return lost.of(crossing_fault::file_full) > 500; }));
        CHECK(lost.of(crossing_fault::no_room) == 0);
        broker.start();
        REQUIRE(until({&near, &sides.far}, [&] {
            return sides.got.size() + lost.of(crossing_fault::file_full) == 1000;
        }));
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
    CHECK(until({&near}, [&] { return near.report().of(crossing_fault::bad_message) == 3; }));
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
        courier::channel<Landed> here("here");
        courier::ferry near(at(broker, "near"));
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
    CHECK(std::chrono::steady_clock::now() - begun < 2s);
}
