// Which event caused which, through everything that may lie between.
#include "support.hpp"

using namespace std::chrono_literals;
using courier::channel;
using courier::ledger;
using test::Dawn;
using test::Moored;

namespace {

// The chain's channels, "+" behind those that were posted.
std::string way(const ledger& night, std::string_view channel) {
    std::string text;
    for (const courier::chain_link& link : night.chain(night.latest_on(channel))) {
        text += (text.empty() ? "" : " > ") + link.channel + (link.is_post ? "+" : "");
    }
    return text;
}

struct Horn {};
struct Asked {
    using answer = int;
};

/// A ledger, and channels whose events are to cause one another.
struct scene {
    ledger night{"ledger"};
    channel<Dawn> dawn{"dawn"};
    channel<Moored> moored{"moored"};
    channel<Horn> horn{"horn"};
    courier::outbox later{"later"};
    courier::timetable hours{later};
    courier::subscriber watch{"watch"};

    scene() { night.attach_everything(); }
};

} // namespace

TEST_CASE("ledger: a nested publish is caused by the event whose handler made it") {
    scene s;
    s.watch.subscribe(s.dawn, [&] { s.moored.publish({1, 0}); });
    courier::subscriber foghorn("foghorn");
    foghorn.subscribe(s.moored, [&] { s.horn.publish(); });
    CHECK(courier::current_event() == 0);
    s.dawn.publish();
    CHECK(way(s.night, "horn") == "dawn > moored > horn");
    const auto chain = s.night.chain(s.night.latest_on("horn"));
    CHECK(chain[0].in_handler.empty());
    CHECK(chain[1].in_handler == "watch");
    CHECK(chain[2].in_handler == "foghorn");
    CHECK(test::contains(chain[2].where.file, "cause_test.cpp"));
    CHECK(chain[2].where.line == chain[2].handler.line);
    s.horn.publish();
    CHECK(way(s.night, "horn") == "horn");
}

TEST_CASE("ledger: what is posted is caused by who posted it, each payload by its own") {
    scene s;
    s.watch.subscribe(s.moored, [&](const Moored& m) {
        if (m.boat == 1) {
            s.horn.publish();
        }
    });
    s.watch.subscribe(s.dawn, [&] { s.later.post(s.moored, {1, 0}); });
    s.dawn.publish();
    s.later.post(s.moored, {2, 0});
    s.later.deliver();
    CHECK(way(s.night, "horn") == "dawn > moored+ > moored > horn");
    CHECK(way(s.night, "moored") == "moored+ > moored"); // the second one
}

TEST_CASE("ledger: a merged post is caused by the newest, a bounded one by its own") {
    scene s;
    const courier::poster<Moored> one(s.later, s.moored, {.keep = courier::keep::one});
    s.watch.subscribe(s.dawn, [&] { one.post({1, 0}); });
    one.post({0, 0});
    s.dawn.publish();
    s.later.deliver();
    CHECK(way(s.night, "moored") == "dawn > moored+ > moored");
    const courier::poster<Moored> two(s.later, s.moored, {.limit = 2, .when_full = courier::when_full::drop_oldest});
    two.post({1, 0});
    s.watch.clear();
    s.watch.subscribe(s.dawn, [&] { two.post({2, 0}); });
    s.dawn.publish();
    two.post({3, 0});
    std::vector<std::string> ways;
    courier::subscriber look("look");
    look.subscribe(s.moored,
                   [&](const Moored& m) { ways.push_back(std::to_string(m.boat) + " " + way(s.night, "moored")); });
    s.later.deliver();
    CHECK(ways == std::vector<std::string>{"2 dawn > moored+ > moored", "3 moored+ > moored"});
}

TEST_CASE("ledger: timers and beats keep the cause of who asked for them") {
    scene s;
    courier::timer gulls;
    s.watch.subscribe(s.dawn, [&] {
        s.hours.after(2s, s.horn, {}).release();
        gulls = s.hours.every(1s, s.moored, {});
    });
    s.dawn.publish();
    s.hours.advance(1s);
    s.later.deliver();
    CHECK(way(s.night, "moored") == "dawn > moored+ > moored");
    s.hours.advance(1s);
    s.later.deliver();
    CHECK(way(s.night, "horn") == "dawn > horn+ > horn");
    CHECK(way(s.night, "moored") == "dawn > moored+ > moored");
}

TEST_CASE("ledger: relays, queries and pipelines are links of the chain") {
    scene s;
    courier::query<Asked> asked("asked");
    const courier::relay carry(s.dawn, s.moored, [](const Dawn&) { return Moored{7, 0}; });
    s.watch.subscribe(s.moored | courier::filter([](const Moored& m) { return m.boat == 7; }),
                      [&] { CHECK(asked.ask({}) == 5); });
    courier::subscriber office("office");
    office.answer(asked, [&](const Asked&) {
        s.horn.publish();
        return 5;
    });
    s.dawn.publish();
    CHECK(way(s.night, "horn") == "dawn > moored > asked > horn");
    s.moored.publish({6, 0});
    for (const auto& one : s.night.read().subscriptions) {
        if (one.subscriber == "watch") {
            CHECK(one.turns[courier::turn::filtered] == 1);
            CHECK(one.turns[courier::turn::served] == 1);
        }
    }
}

TEST_CASE("ledger: sequences go on with the cause of what they waited for, or of their start") {
    scene s;
    const auto story = [](scene& in) -> courier::sequence<> {
        co_await courier::next(in.dawn);
        co_await courier::elapsed(in.hours, 1s);
        in.horn.publish();
        co_await courier::next(in.moored);
        in.horn.publish();
    };
    courier::subscriber keeper("keeper");
    keeper.start(story(s));
    s.dawn.publish();
    s.hours.advance(1s);
    s.later.deliver();
    CHECK(way(s.night, "horn") == "dawn > horn");
    s.moored.publish({});
    CHECK(way(s.night, "horn") == "moored > horn");
    CHECK(s.night.chain(s.night.latest_on("horn"))[1].in_handler == "keeper");
}

TEST_CASE("ledger: a paused sequence goes on with the cause of what it was due by") {
    scene s;
    const auto story = [](scene& in) -> courier::sequence<> {
        co_await courier::elapsed(in.hours, 1s);
        in.horn.publish();
    };
    courier::subscriber keeper("keeper");
    s.watch.subscribe(s.dawn, [&] { keeper.start(story(s)); });
    s.dawn.publish();
    keeper.pause();
    s.hours.advance(1s);
    s.later.deliver();
    CHECK(s.night.latest_on("horn") == 0);
    s.watch.clear();
    s.watch.subscribe(s.moored, [&] { keeper.resume(); });
    s.moored.publish({});
    CHECK(way(s.night, "horn") == "dawn > horn");
}

TEST_CASE("ledger: changes of states and formulas are caused by who set them, at their line") {
    scene s;
    courier::state<int> crates("crates", 0);
    courier::formula<int> twice("twice", [&] { return crates.read() * 2; });
    courier::subscriber board("board");
    board.subscribe(crates, [&] { s.horn.publish(); });
    board.subscribe(twice, [] {});
    s.watch.subscribe(s.dawn, [&] { crates.set(3); });
    s.dawn.publish();
    CHECK(way(s.night, "horn") == "dawn > crates > horn");
    CHECK(way(s.night, "twice") == "dawn > twice");
    CHECK(test::contains(s.night.chain(s.night.latest_on("crates")).back().where.file, "cause_test.cpp"));
}

TEST_CASE("ledger: what other threads send comes from outside, unless the cause was handed on") {
    scene s;
    courier::inbox arrivals(s.later, "arrivals");
    const courier::inlet<Moored> inlet(arrivals, s.moored);
    std::thread([&] { inlet.send({1, 0}); }).join();
    arrivals.take_in();
    s.later.deliver();
    CHECK(way(s.night, "moored") == "moored+ > moored");
    courier::cause why;
    s.watch.subscribe(s.dawn, [&] { why = courier::cause::here(); });
    s.dawn.publish();
    std::thread([&] {
        const courier::caused_by now(why);
        inlet.send({2, 0});
    }).join();
    arrivals.take_in();
    s.later.deliver();
    CHECK(way(s.night, "moored") == "dawn > moored+ > moored");
    s.watch.clear();
    s.watch.subscribe(s.dawn, [&] { inlet.send({3, 0}); });
    s.dawn.publish();
    arrivals.take_in();
    s.later.deliver();
    CHECK(way(s.night, "moored") == "dawn > moored+ > moored");
}

TEST_CASE("ledger: a chain ends where the ledger has forgotten") {
    ledger night("ledger", {.chain_capacity = 4});
    channel<Dawn> dawn("dawn");
    channel<Horn> horn("horn");
    night.attach_everything();
    courier::subscriber foghorn("foghorn");
    foghorn.subscribe(dawn, [&] {
        for (int i = 0; i < 6; ++i) {
            horn.publish();
        }
    });
    dawn.publish();
    CHECK(way(night, "horn") == "horn");
    CHECK(night.chain(1).empty());
    CHECK(night.chain(99).empty());
}
