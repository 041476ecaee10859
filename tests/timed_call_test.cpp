// Calls after a delay, at a time, and again and again.
#include "support.hpp"

using namespace std::chrono_literals;

namespace {

struct scene {
    std::unique_ptr<courier::outbox> later = std::make_unique<courier::outbox>("later");
    std::unique_ptr<courier::timetable> hours = std::make_unique<courier::timetable>(*later);
    std::unique_ptr<courier::subscriber> in = std::make_unique<courier::subscriber>("keeper");
    std::string log;

    void pass(courier::time_span step) {
        hours->advance(step);
        later->deliver();
    }
    [[nodiscard]] std::string taken() { return std::exchange(log, {}); }
};

} // namespace

TEST_CASE("a call comes after its delay, once, in a round of the outbox") {
    scene s;
    const auto key = s.in->after(*s.hours, 2s, [&] { s.log += "a"; });
    s.in->at(*s.hours, 1s, [&] { s.log += "b"; });
    CHECK(s.in->size() == 2);
    s.pass(1s);
    CHECK(s.taken() == "b");
    CHECK(s.in->live(key));
    s.hours->advance(1s);
    CHECK(s.taken().empty());
    s.later->deliver();
    CHECK(s.taken() == "a");
    CHECK_FALSE(s.in->live(key));
    CHECK(s.in->size() == 0);
    s.pass(10s);
    CHECK(s.taken().empty());
}

TEST_CASE("a call is ended by its key, its subscriber, its timetable, its outbox") {
    scene s;
    const auto key = s.in->after(*s.hours, 2s, [&] { s.log += "a"; });
    s.in->every(*s.hours, 1s, [&] { s.log += "b"; });
    CHECK(s.in->end(key));
    s.pass(2s);
    CHECK(s.taken() == "bb");
    SUBCASE("subscriber") {
        s.in.reset();
        s.pass(2s);
    }
    SUBCASE("timetable") {
        s.hours.reset();
    }
    SUBCASE("outbox") {
        s.later.reset();
        s.hours->advance(2s);
    }
    SUBCASE("between the beat and the round") {
        s.hours->advance(1s);
        s.in->clear();
        s.later->deliver();
    }
    CHECK(s.taken().empty());
}

TEST_CASE("beats that were missed come each in its place, or once") {
    scene s;
    courier::channel<test::Dawn> dawn{"dawn"};
    s.in->subscribe(dawn, [&] { s.log += "d"; });
    s.in->every(*s.hours, 1s, [&] { s.log += "e"; });
    s.in->every(*s.hours, 2s, [&] { s.log += "o"; }, {.missed = courier::missed_beats::once});
    const auto beat = s.hours->every(1s, dawn, {});
    s.pass(5s);
    const std::string all = s.taken();
    CHECK(std::count(all.begin(), all.end(), 'e') == 5);
    CHECK(std::count(all.begin(), all.end(), 'o') == 1);
    CHECK(std::count(all.begin(), all.end(), 'd') == 5);
    const test::fault_catcher faults;
    s.in->every(*s.hours, 0s, [] {});
    CHECK(faults.caught().at(0).code == courier::fault_code::bad_interval);
}

TEST_CASE("a call waits while its subscriber is paused") {
    scene s;
    s.in->after(*s.hours, 1s, [&] { s.log += "a"; });
    s.in->every(*s.hours, 1s, [&] { s.log += "b"; });
    s.in->pause();
    s.pass(5s);
    CHECK(s.taken().empty());
    s.in->resume();
    CHECK(s.taken().empty());
    s.later->deliver();
    CHECK(s.taken() == "ba"); // the newest first, as resume() goes
    s.pass(1s);
    CHECK(s.taken() == "b");
    s.in->pause();
    s.in->after(*s.hours, 1s, [&] { s.log += "c"; }); // asked for while paused
    s.pass(1s);
    CHECK(s.taken().empty());
    s.in->resume();
    s.later->deliver();
    CHECK(s.taken() == "cb");
}

TEST_CASE("a call may ask for the next, end itself, its subscriber or its timetable, and throw") {
    scene s;
    SUBCASE("the next") {
        s.in->after(*s.hours, 1s, [&] {
            s.log += "a";
            s.in->after(*s.hours, 1s, [&] { s.log += "b"; });
        });
        s.pass(1s);
        s.pass(1s);
        CHECK(s.taken() == "ab");
    }
    SUBCASE("its subscriber") {
        s.in->every(*s.hours, 1s, [&, kept = std::make_shared<int>(7)] {
            s.in.reset();
            s.log += std::to_string(*kept); // what it holds is there until it returns
        });
        s.pass(3s);
        CHECK(s.taken() == "7");
    }
    SUBCASE("itself") {
        courier::subscription_key key;
        key = s.in->every(*s.hours, 1s, [&] {
            s.log += "a";
            s.in->end(key);
        });
        s.pass(3s);
        CHECK(s.taken() == "a");
    }
    SUBCASE("its timetable") {
        s.in->every(*s.hours, 1s, [&] {
            s.log += "a";
            s.hours.reset();
        });
        s.pass(1s);
        CHECK(s.taken() == "a");
    }
    SUBCASE("an exception comes out of the round, and a beat goes on") {
        s.in->every(*s.hours, 1s, [&] {
            s.log += "a";
            throw std::runtime_error("aground");
        });
        s.hours->advance(1s);
        CHECK_THROWS_AS(s.later->deliver(), std::runtime_error);
        s.hours->advance(1s);
        CHECK_THROWS_AS(s.later->deliver(), std::runtime_error);
        CHECK(s.taken() == "aa");
    }
}

TEST_CASE("what a call publishes is caused by what asked for it, in a ledger") {
    scene s;
    courier::ledger night{"night"};
    courier::channel<test::Dawn> dawn{"dawn"};
    courier::channel<test::Moored> moored{"moored"};
    night.attach_everything();
    s.in->subscribe(dawn, [&] { s.in->after(*s.hours, 1s, [&] { moored.publish({}); }); });
    dawn.publish();
    s.pass(1s);
    const auto chain = night.chain(night.latest_on("moored"));
    REQUIRE(chain.size() == 2);
    CHECK(chain[0].channel == "dawn");
}

TEST_CASE("the next payload only") {
    scene s;
    courier::channel<test::Moored> moored{"moored"};
    const auto key = s.in->once(moored, [&](const test::Moored& m) { s.log += std::to_string(m.boat); });
    moored.publish({.boat = 1});
    moored.publish({.boat = 2});
    CHECK(s.taken() == "1");
    CHECK_FALSE(s.in->live(key));
}
