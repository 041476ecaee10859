// What is promised while brokers die, links break and peers are slow.
#include "two_sides.hpp"

namespace {

using namespace test;
using courier::ferry_code;
using courier::guarantee;

} // namespace

TEST_CASE("a broker that is killed and started again costs nothing that was promised") {
    for (const guarantee promised : {guarantee::at_least_once, guarantee::exactly_once}) {
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
                if (round != 2) { // in one round it is killed again while they look for it, if that takes them long
                    REQUIRE(until({&all.near, &all.far}, [&] { return is_there(all.near); }));
                }
            }
            all.publish(50);
            CHECK(until({&all.near, &all.far}, [&] { return all.has_all(); }));
            look_after({&all.near, &all.far}, 100ms);
            CHECK(all.first_are_in_order());
            CHECK(all.near.report().connections >= 4);
            CHECK(all.far.report().of(ferry_code::missing) == 0);
            if (promised == guarantee::exactly_once) {
                CHECK(all.twice() == 0);
                CHECK(all.is_in_order());
            }
        }
    }
}

TEST_CASE("a broker that has forgotten everything is told again what it is to keep") {
    reef::local_broker broker("listener %PORT% 127.0.0.1\nallow_anonymous true\npersistence false\nlog_dest none\n");
    courier::ferry_options options = at(broker, "near");
    options.sent_again = 0ms; // not what this is about
    courier::state<int> oil("oil", 1);
    courier::addressed_channel<Landed, int> berths("berths");
    courier::state<int> lamp("lamp", 0);
    courier::channel<Landed> passing("passing");
    courier::ferry near(options);
    near.send(oil, "t/oil");
    near.send(berths, "t/berth/+", {.guarantee = guarantee::exactly_once, .kept_by_broker = true});
    near.send(lamp, "t/lamp", {.guarantee = guarantee::at_most_once});
    near.send(passing, "t/passing");

    // Hears all of it, before and after.
    courier::addressed_channel<Landed, int> far_berths("far.berths");
    courier::channel<Landed> far_passing("far.passing");
    courier::ferry far(at(broker, "far"));
    far.receive(far_berths, "t/berth/+", {.guarantee = guarantee::exactly_once});
    far.receive(far_passing, "t/passing");
    std::vector<int> far_got;
    courier::subscriber in("hears");
    in.subscribe(far_berths, [&](const int&, const Landed& one) { far_got.push_back(one.barge); });
    in.subscribe(far_passing, [&](const Landed& one) { far_got.push_back(one.barge); });
    REQUIRE(connected({&near, &far}));
    oil.set(7);
    berths.publish_to(1, {1, 0});
    berths.publish_to(1, {2, 0});
    berths.publish_to(2, {3, 0});
    lamp.set(4);
    passing.publish({5, 0});
    REQUIRE(until({&near, &far}, [&] { return far_got.size() == 4 && near.report().confirmed == near.report().sent; }));
    const std::uint64_t confirmed = near.report().confirmed;

    broker.kill();
    broker.start();
    REQUIRE(until({&near, &far}, [&] { return near.report().connections == 2 && far.report().connections == 2; }));
    courier::state<int> late_oil("late.oil", 0);
    courier::addressed_channel<Landed, int> late_berths("late.berths");
    courier::state<int> late_lamp("late.lamp", 0);
    courier::channel<Landed> late_passing("late.passing");
    courier::ferry late(at(broker, "late"));
    late.receive(late_oil, "t/oil");
    late.receive(late_berths, "t/berth/+");
    late.receive(late_lamp, "t/lamp");
    late.receive(late_passing, "t/passing");
    std::map<int, int> got;
    in.subscribe(late_berths, [&](const int& to, const Landed& one) { got[to] = one.barge; });
    in.subscribe(late_passing, [&](const Landed& one) { got[-1] = one.barge; });
    CHECK(until({&near, &far, &late},
                [&] { return late_oil.glance() == 7 && late_lamp.glance() == 4 && got.size() == 2; }));
    look_after({&near, &far, &late}, 50ms);
    CHECK(got == std::map<int, int>{{1, 2}, {2, 3}});
    CHECK(far_got == std::vector<int>{1, 2, 3, 5});
    CHECK(near.report().confirmed == confirmed + 4); // two values and two berths
}

TEST_CASE("a link that breaks in the middle of a message costs nothing that was promised") {
    const reef::local_broker broker;
    for (const bool by_sender : {true, false}) {
        middle between(broker.port());
        courier::ferry_options near = at(broker, "near");
        courier::ferry_options far = at(broker, "far");
        (by_sender ? near : far).port = between.port();
        two_sides all(near, far, guarantee::exactly_once);
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
    for (const guarantee promised : {guarantee::at_least_once, guarantee::exactly_once}) {
        courier::channel<Landed> there("there");
        courier::ferry far(at(broker, "far"));
        far.receive(there, "t/landed", {.guarantee = promised});
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
        // A number that somebody has made up stands for nothing but itself.
        for (const char* const number : {"9223372036854775808", "900", "3", "4", "1048576", "5"}) {
            send(std::string("aaaaaaaaaaaaaaaa-n0-") + number + "-0");
        }
        REQUIRE(until({&far}, [&] { return far.report().arrived + far.report().known_already == 18; }));
        look_after({&far}, 20ms);
        CHECK(got == (promised == guarantee::exactly_once ? 10 : 18));
    }
}

TEST_CASE("payloads that did not come are told") {
    const reef::local_broker broker;
    courier::channel<Landed> there("there");
    courier::ferry far(at(broker, "far"));
    far.receive(there, "t/landed", {.guarantee = guarantee::at_most_once});
    const loss_list lost(far);
    REQUIRE(connected({&far}));
    other_program other(broker.port(), "other");
    auto event = event_of("t/landed", "{}");
    for (const char* const id : {"aaaaaaaaaaaaaaaa-n0-5-0", "aaaaaaaaaaaaaaaa-n0-6-0", "aaaaaaaaaaaaaaaa-n0-10-0",
                                 "aaaaaaaaaaaaaaaa-g1-5-0", "aaaaaaaaaaaaaaaa-g1-50-0"}) {
        event.properties["id"] = id;
        other.send(event);
    }
    CHECK(until({&far}, [&] { return far.report().arrived == 5 && lost.of(ferry_code::missing) >= 3; }));
    CHECK(lost.of(ferry_code::missing) == 3);
}

TEST_CASE("of two processes with one name the first one is turned off, and says so") {
    const reef::local_broker broker;
    courier::ferry_options options = at(broker, "reef-1");
    options.processes_topic = "processes";
    courier::ferry first(options);
    REQUIRE(connected({&first}));
    courier::ferry second(options);
    CHECK(until({&first, &second}, [&] { return first.link().glance().phase == courier::link_phase::displaced; }));
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
    near.send(sure, "t/sure", {.guarantee = guarantee::exactly_once});
    near.send(unsure, "t/unsure", {.guarantee = guarantee::at_most_once});
    courier::ferry_options slow = at(broker, "far");
    slow.max_arriving = 16;
    slow.arrivals_per_frame = 8;
    courier::channel<Landed> sure_there("sure there");
    courier::channel<Landed> unsure_there("unsure there");
    courier::ferry far(slow);
    far.receive(sure_there, "t/sure", {.guarantee = guarantee::exactly_once});
    far.receive(unsure_there, "t/unsure", {.guarantee = guarantee::at_most_once});
    std::vector<int> got;
    int got_unsure = 0;
    const auto in = sure_there.subscribe([&](const Landed& one) { got.push_back(one.barge); });
    const auto in_unsure = unsure_there.subscribe([&] { ++got_unsure; });
    REQUIRE(connected({&near, &far}));
    constexpr int all = 2000;
    for (int i = 1; i <= 500; ++i) {
        unsure.publish({i, 0});
    }
    REQUIRE(until({&near}, [&] { return far.report().of(ferry_code::arrivals_full) > 0; })); // the other one sleeps
    for (int i = 1; i <= all; ++i) {
        sure.publish({i, 0});
    }
    look_after({&near}, 200ms);
    std::size_t most = 0;
    CHECK(until(
        {&near},
        [&] {
            const std::size_t before = got.size() + static_cast<std::size_t>(got_unsure);
            far.take_in();
            most = std::max(most, got.size() + static_cast<std::size_t>(got_unsure) - before);
            return got.size() == all;
        },
        20s));
    CHECK(most <= 8);
    CHECK(std::is_sorted(got.begin(), got.end()));
    CHECK(far.report().of(ferry_code::arrivals_full) + static_cast<std::uint64_t>(got_unsure) == 500);
}

TEST_CASE("a peer behind a link that stalls gets everything in the end") {
    const reef::local_broker broker;
    middle between(broker.port());
    courier::ferry_options far = at(broker, "far");
    far.port = between.port();
    two_sides all(at(broker, "near"), far, guarantee::exactly_once);
    REQUIRE(connected({&all.near, &all.far}));
    for (int i = 0; i < 5; ++i) {
        between.hold(true);
        all.publish(300);
        look_after({&all.near, &all.far}, 40ms);
        between.hold(false);
        look_after({&all.near, &all.far}, 20ms);
    }
    CHECK(until(
        {&all.near, &all.far}, [&] { return all.has_all(); }, 20s));
    CHECK(all.is_in_order());
    CHECK(all.twice() == 0);
}
