#include "allocations.hpp"
#include "support.hpp"

using namespace std::chrono_literals;

// Not in an unnamed namespace: they go through a hub.
namespace levels {
struct Bitten {
    int crates = 0;
};
struct Scored {
    int points = 0;
};
} // namespace levels
using levels::Bitten;
using levels::Scored;

namespace {

/// An object of the game's, with everything that a subscriber can own.
class lamp {
public:
    lamp(courier::hub& in, courier::timetable& clock, std::string& log) : log_(log) {
        in_.subscribe(in.channel<Bitten>(), [this](const Bitten& b) { say("b" + std::to_string(b.crates)); });
        in_.subscribe(in.channel<Scored>(), [this] { say("s"); });
        in_.every(clock, 1s, [this] { say("t"); });
        in_.start(wait(clock));
        in_.keep_current([this] { say("l" + std::to_string(level_.read())); });
    }
    void rise(int to) { level_.set(to); }

private:
    courier::sequence<> wait(courier::timetable& clock) {
        co_await courier::elapsed(clock, 2s);
        say("q");
    }
    void say(const std::string& what) { log_ += what + " "; }

    std::string& log_;
    courier::state<int> level_{"level"};
    courier::subscriber in_{"lamp"};
};

struct scene {
    courier::hub game{"game"};
    courier::outbox later{"later"};
    std::string log;
    lamp* big = nullptr;
    courier::timetable* clock = nullptr;
    courier::level reef{"reef", game, [this](courier::level& here) {
                            clock = &here.make<courier::timetable>(later, "reef time");
                            big = &here.make<lamp>(here.hub(), *clock, log);
                        }};

    scene() { static_cast<void>(game.channel<Scored>()); }
    void pass(courier::game_time by) {
        if (reef.live()) {
            clock->advance(by);
        }
        later.deliver();
    }
    /// What is heard when everything happens once.
    std::string heard() {
        if (reef.live()) {
            reef.hub().channel<Bitten>().publish({3});
            big->rise(big != nullptr ? ++tide : 0);
        }
        game.channel<Scored>().publish({});
        pass(1s);
        return std::exchange(log, {});
    }
    int tide = 0;
};

} // namespace

TEST_CASE("a level begins, sleeps, wakes, ends and begins again, with all that it owns") {
    const test::fault_catcher faults;
    scene s;
    CHECK(s.heard() == "");
    for (int round = 1; round <= 3; ++round) {
        s.reef.begin();
        s.reef.begin(); // it has
        CHECK(std::exchange(s.log, {}) == "l0 ");
        CHECK((s.reef.live() && s.reef.awake()));
        CHECK(s.reef.times_begun() == static_cast<std::uint64_t>(round));
        s.tide = 0;
        CHECK(s.heard() == "b3 l1 s t ");
        s.reef.sleep();
        s.reef.sleep(); // it does
        CHECK_FALSE(s.reef.awake());
        CHECK(s.heard() == "");
        CHECK(s.heard() == "");
        s.reef.wake();
        CHECK(std::exchange(s.log, {}) == "l3 "); // what it shows is not current any more
        CHECK(s.heard() == "b3 l4 s q t ");
        s.reef.end();
        CHECK(s.heard() == "");
        CHECK(s.game.channel<Scored>().size() == 0);
    }
    CHECK(faults.caught().empty());
}

TEST_CASE("what is left of a level is named with its line, and ends with it") {
    const test::fault_catcher faults;
    courier::hub game{"game"};
    courier::channel<Scored>& scored = game.channel<Scored>();
    std::vector<std::unique_ptr<courier::subscriber>> kept;
    courier::subscriber display{"display"};
    int heard = 0;
    const auto hear = [&] { ++heard; };
    courier::level reef{"reef", game, [&](courier::level& here) {
                            kept.push_back(std::make_unique<courier::subscriber>("leak"));
                            kept.back()->subscribe(scored, hear);
                            kept.push_back(
                                here.outside([] { return std::make_unique<courier::subscriber>("goes on"); }));
                            kept.back()->subscribe(scored, hear);
                            display.follow(here); // in order
                            display.subscribe(here.hub().channel<Bitten>(), hear);
                        }};
    reef.begin();
    courier::subscriber late{"late"};
    late.subscribe(reef.hub().channel<Bitten>(), hear);
    courier::subscription nobodys = reef.hub().channel<Bitten>().subscribe(hear);
    reef.hub().channel<Bitten>().publish({});
    scored.publish({});
    CHECK(heard == 5);
    reef.sleep();
    reef.hub().channel<Bitten>().publish({}); // the two that do not follow
    CHECK(heard == 7);
    reef.end();
    scored.publish({});
    CHECK(heard == 8);
    REQUIRE(faults.caught().size() == 1);
    const courier::fault& left = faults.caught()[0];
    CHECK(left.code == courier::fault_code::subscriptions_left);
    CHECK(test::contains(left.what, "level 'reef' ends, and 3 subscriptions are left, which end with it: "));
    CHECK(test::contains(left.what, "'levels::Scored' by 'leak' from level_test.cpp:"));
    CHECK(test::contains(left.what, "'levels::Bitten' by 'late' from"));
    CHECK(test::contains(left.what, "by a subscription without a subscriber from"));
    CHECK_FALSE(test::contains(left.what, "goes on"));
    CHECK(late.size() == 0);
    CHECK_FALSE(nobodys.live());
    late.subscribe(scored, hear); // a subscriber that followed it is of use again
    display.subscribe(scored, hear);
    scored.publish({});
    CHECK(heard == 11);
}

TEST_CASE("levels end in the middle of events, when they cannot be made, and in one another") {
    courier::hub game{"game"};
    courier::channel<Scored>& scored = game.channel<Scored>();
    std::string log;
    bool fails = false;
    struct part {
        part(std::string& to, std::string its_name) : log(to), name(std::move(its_name)) { log += "+" + name + " "; }
        ~part() { log += "-" + name + " "; }
        std::string& log;
        std::string name;
    };
    std::unique_ptr<courier::level> reef;
    courier::level* room = nullptr;
    reef = std::make_unique<courier::level>("reef", game, [&](courier::level& here) {
        here.make<part>(log, "first");
        room = &here.make<courier::level>("room", here.hub(), [&](courier::level& inner) {
            inner.make<part>(log, "inner");
            inner.in().subscribe(scored, [&log] { log += "? "; });
        });
        room->begin();
        if (std::exchange(fails, false)) {
            throw std::runtime_error("no lamp");
        }
        here.in().subscribe(scored, [&](const Scored& what) {
            log += "! ";
            if (what.points == 1) {
                reef->restart();
            } else if (what.points == 2) {
                reef.reset();
            }
        });
    });
    const auto said = [&] { return std::exchange(log, {}); };
    fails = true;
    CHECK_THROWS_AS(reef->begin(), std::runtime_error);
    CHECK_FALSE(reef->live());
    CHECK(said() == "+first +inner -inner -first ");
    CHECK(scored.size() == 0);
    CHECK_THROWS_AS(static_cast<void>(reef->hub()), courier::fault_error); // it has not begun
    CHECK_THROWS_AS(static_cast<void>(reef->make<part>(log, "early")), courier::fault_error);
    reef->begin();
    CHECK(said() == "+first +inner ");
    scored.publish({});
    CHECK(said() == "? ! ");
    room->sleep();
    scored.publish({});
    CHECK(said() == "! ");
    reef->sleep();
    reef->sleep(); // it does
    scored.publish({});
    reef->wake(); // the room was asleep before
    scored.publish({});
    CHECK(said() == "! ");
    room->wake();
    scored.publish({1}); // those that are made meanwhile do not hear it
    CHECK(said() == "? ! -inner -first +first +inner ");
    scored.publish({2});
    CHECK(said() == "? ! -inner -first ");
    CHECK(reef == nullptr);
    CHECK(scored.size() == 0);
    struct last_word {
        std::unique_ptr<courier::level>& all;
        ~last_word() { all.reset(); }
    };
    int begun = 0;
    reef = std::make_unique<courier::level>("reef", game, [&](courier::level& here) {
        ++begun;
        here.make<last_word>(reef);
    });
    reef->begin();
    reef->restart(); // it is gone before it begins again
    CHECK((begun == 1 && reef == nullptr));
}

TEST_CASE("what leaves because its level ends completes nothing, in an event and out of one") {
    courier::hub game{"game"};
    courier::channel<Scored>& scored = game.channel<Scored>();
    for (const bool in_event : {false, true}) {
        courier::group<int> crew{"crew"};
        courier::tally<int> ready{"ready"};
        courier::subscriber in{"quest"};
        std::string log;
        ready.expect_group(crew);
        in.subscribe(ready.completed(), [&log] { log += "ready "; });
        std::vector<courier::membership<int>*> hands;
        courier::level ship{"ship", game, [&](courier::level& here) {
                                hands.clear();
                                for (int hand = 1; hand <= 3; ++hand) {
                                    hands.push_back(&here.keep(crew.join(hand)));
                                }
                            }};
        const auto wait = [](courier::group<int>& who, courier::channel<Scored>& on,
                             std::string& to) -> courier::sequence<> {
            co_await courier::all_in(who, [&on](int) { return courier::next(on); });
            to += "all ";
        };
        const auto end = [&] {
            const courier::subscription ending = scored.subscribe([&ship] { ship.end(); });
            in_event ? static_cast<void>(scored.publish({})) : ship.end();
        };
        ship.begin();
        in.start(wait(crew, scored, log));
        ready.report(1);
        ready.report(2);
        hands[2]->end(); // this one has left the game
        CHECK(std::exchange(log, {}) == "ready ");
        ready.reset();
        ship.restart();
        ready.report(1);
        CHECK(ready.expected() == 3);
        end();
        CHECK(ready.expected() == 1); // its report counts on
        CHECK(log.empty());
    }
}

TEST_CASE("two levels at once, ten thousand times: no bytes stay") {
    scene s;
    courier::level cove{"cove", s.game, [&](courier::level& here) {
                            here.in().subscribe(here.hub().channel<Bitten>(), [&s] { s.log += "cove "; });
                        }};
    const auto both = [&] {
        s.reef.restart();
        cove.restart();
        s.log.clear();
        cove.hub().channel<Bitten>().publish({});
        s.reef.hub().channel<Bitten>().publish({1});
        REQUIRE(s.log == "cove b1 ");
    };
    for (int i = 0; i < 100; ++i) {
        both();
    }
    s.reef.end();
    const long before = test::blocks_there();
    for (int i = 0; i < 10'000; ++i) {
        both();
    }
    s.reef.end();
    CHECK(test::blocks_there() <= before);
}

TEST_CASE("objects of a pool: silent while they are asleep, without allocations") {
    struct Landed {};
    courier::channel<Landed> landed{"landed"};
    courier::outbox later;
    courier::timetable clock{later};
    int heard = 0;
    struct gull {
        gull(courier::channel<Landed>& on, courier::timetable& time, courier::lifecycle_channels<gull>& all, int& count)
            : life(*this, all) {
            in.follow(life);
            in.subscribe(on, [&count] { ++count; });
            in.every(time, 1s, [&count] { count += 1000; });
        }
        courier::subscriber in{"gull"};
        courier::lifecycle<gull> life;
    };
    courier::lifecycle_channels<gull> gulls{"gull"};
    int seen = 0;
    courier::reactions<gull&> watch{"watch",
                                    [&](courier::subscriber& in, gull&) { in.subscribe(landed, [&seen] { ++seen; }); }};
    watch.follow(gulls);
    std::vector<std::unique_ptr<gull>> pool;
    for (int i = 0; i < 100; ++i) {
        pool.push_back(std::make_unique<gull>(landed, clock, gulls, heard));
    }
    landed.publish({});
    CHECK(heard + seen == 0);
    const auto use = [&] {
        for (std::size_t i = 0; i < pool.size(); i += 2) {
            pool[i]->life.wake();
        }
        landed.publish({});
        clock.advance(1s);
        later.deliver();
        for (std::size_t i = 0; i < pool.size(); i += 2) {
            pool[i]->life.sleep();
        }
        landed.publish({});
    };
    use();
    CHECK(heard == 50 + 50'000);
    CHECK(seen == 50);
    use();
    const test::counted allocations;
    for (int round = 0; round < 1000; ++round) {
        use();
    }
    CHECK(allocations.since() == 0);
    CHECK(seen == 1002 * 50);
    pool[1]->in.pause();
    pool[1]->life.wake();
    CHECK((pool[1]->in.paused() && !pool[1]->in.asleep()));
    landed.publish({});
    CHECK(seen == 1002 * 50 + 1);
    pool[1]->in.resume();
    pool.erase(pool.begin());
    CHECK(watch.size() == 99);
    struct keeper {
        explicit keeper(courier::lifecycle_channels<keeper>& all) : life(*this, all, {.awake = true}) {}
        courier::lifecycle<keeper> life;
    };
    courier::lifecycle_channels<keeper> keepers{"keeper"};
    courier::subscriber led{"led"};
    courier::subscriber at_the_end{"end of the line"};
    {
        keeper one(keepers);
        led.follow(one.life);
        at_the_end.follow(led);
        at_the_end.subscribe(landed, [&seen] { seen = -1; });
        landed.publish({});
        CHECK(std::exchange(seen, 0) == -1);
        one.life.sleep();
        CHECK(at_the_end.asleep());
        landed.publish({});
        CHECK(seen != -1);
    }
    CHECK_FALSE(at_the_end.asleep());
    CHECK(at_the_end.size() == 1);
}
