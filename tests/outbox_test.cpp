#include "support.hpp"

using courier::channel;
using courier::keep;
using courier::outbox;
using courier::poster;
using test::Moored;

namespace {

struct Hailed {
    using address = int;
    int order = 0;
};

/// Can be moved only, once to where it waits.
struct Chart {
    std::unique_ptr<int> sheet;
};

struct scene {
    channel<Moored> moored{"moored"};
    channel<Moored> left{"left"};
    outbox later{"later"};
    std::string log;
    courier::subscriber in{"logbook"};

    scene() {
        in.subscribe(moored, [this](const Moored& m) { log += "m" + std::to_string(m.boat) + " "; });
        in.subscribe(left, [this](const Moored& m) { log += "l" + std::to_string(m.boat) + " "; });
    }
    bool post(int boat) { return later.post(moored, {.boat = boat}); }
};

} // namespace

TEST_CASE("what is posted is delivered in a round, channel by channel, in order") {
    scene s;
    s.post(1);
    s.later.post(s.left, {.boat = 2});
    s.post(3);
    CHECK(s.log.empty());
    CHECK(s.later.waiting() == 3);
    const courier::round_report r = s.later.deliver();
    CHECK(s.log == "m1 m3 l2 ");
    CHECK(r.delivered == 3);
    CHECK(r.rounds == 1);
    CHECK(r.quiet);
    CHECK(s.later.deliver().delivered == 0);
    const auto lines = s.later.list();
    REQUIRE(lines.size() == 2);
    CHECK(lines[0].channel == "moored");
    CHECK(lines[0].delivered == 2);
}

TEST_CASE("what never becomes quiet is told by name, and can go on") {
    scene s;
    s.in.subscribe(s.moored, [&] { s.post(1); });
    s.post(1);
    const test::fault_catcher faults;
    CHECK_FALSE(s.later.deliver_until_quiet(5).quiet);
    CHECK(s.log == "m1 m1 m1 m1 m1 ");
    CHECK(faults.told_once(
        {"[courier.not-quiet]",
         "outbox 'later' is not quiet after 5 rounds: 'moored' (1 waiting, posted at outbox_test.cpp:"}));
    CHECK(s.later.waiting() == 1);
}

TEST_CASE("payloads may be moved only, and are gone when they were delivered") {
    channel<Chart> charts{"charts"};
    outbox later;
    int sum = 0;
    const courier::subscription s = charts.subscribe([&](const Chart& c) { sum += *c.sheet; });
    const poster<Chart> out{later, charts};
    for (int i = 1; i <= 100; ++i) {
        out.post({std::make_unique<int>(i)});
    }
    later.post(charts, {std::make_unique<int>(1000)});
    later.deliver();
    CHECK(sum == 6050);
}

TEST_CASE("of what piles up, all or one or one for each address waits, or what is made of them") {
    scene s;
    SUBCASE("the latest") {
        const poster<Moored> out{s.later, s.moored, {.keep = keep::one}};
        out.post({.boat = 1});
        out.post({.boat = 2});
        CHECK(out.waiting() == 1);
        s.later.deliver();
        out.post({.boat = 3});
        s.later.deliver();
        CHECK(s.log == "m2 m3 ");
    }
    SUBCASE("combined") {
        const poster<Moored> out{
            s.later, s.moored, {.combine = [](Moored& kept, const Moored& newer) { kept.boat += newer.boat; }}};
        for (int i = 1; i <= 4; ++i) {
            out.post({.boat = i});
        }
        s.later.deliver();
        CHECK(s.log == "m10 ");
    }
    SUBCASE("for each address") {
        courier::addressed_channel<Hailed> hailed{"hailed"};
        std::string log;
        courier::subscriber in;
        for (int i = 0; i < 200; ++i) {
            in.subscribe(hailed.at(i), [&log, i](const Hailed& h) {
                log += std::to_string(i) + ":" + std::to_string(h.order) + " ";
            });
        }
        const courier::addressed_poster<Hailed> out{s.later, hailed, {.keep = keep::one_per_address}};
        for (int round = 0; round < 2; ++round) {
            out.post_to(7, {1});
            out.post_to(3, {2});
            out.post_to(7, {3});
            out.post_to(190, {4});
            CHECK(out.waiting() == 3);
            s.later.deliver();
            CHECK(log == "7:3 3:2 190:4 ");
            log.clear();
        }
        out.post({5});
        out.post({6});
        in.leave(hailed);
        in.subscribe(hailed, [&](const Hailed& h) { log += "all:" + std::to_string(h.order) + " "; });
        s.later.deliver();
        CHECK(log == "all:6 ");
    }
    SUBCASE("many addresses, combined") {
        courier::addressed_channel<Hailed, std::string> hailed{"hailed"};
        int sum = 0;
        int times = 0;
        const courier::subscription all = hailed.subscribe([&](const Hailed& h) {
            sum += h.order;
            ++times;
        });
        const courier::addressed_poster<Hailed, std::string> out{
            s.later, hailed, {.keep = keep::one_per_address, .combine = [](Hailed& kept, const Hailed& h) {
                                  kept.order += h.order;
                              }}};
        for (int i = 0; i < 3000; ++i) {
            out.post_to("berth " + std::to_string(i % 500), {1});
        }
        s.later.deliver();
        CHECK(times == 500);
        CHECK(sum == 3000);
    }
}

TEST_CASE("a bound refuses the new or drops the oldest, and counts") {
    scene s;
    SUBCASE("refuse") {
        const poster<Moored> out{s.later, s.moored, {.limit = 2}};
        CHECK(out.post({.boat = 1}));
        CHECK(out.post({.boat = 2}));
        CHECK_FALSE(out.post({.boat = 3}));
        CHECK(out.turned_away() == 1);
        s.later.deliver();
        CHECK(out.post({.boat = 4}));
        s.later.deliver();
        CHECK(s.log == "m1 m2 m4 ");
        CHECK(s.later.turned_away() == 1);
    }
    SUBCASE("drop the oldest") {
        const poster<Moored> out{s.later, s.moored, {.limit = 3, .when_full = courier::when_full::drop_oldest}};
        for (int i = 1; i <= 10; ++i) {
            CHECK(out.post({.boat = i}));
            CHECK(out.waiting() <= 3);
        }
        s.later.deliver();
        CHECK(s.log == "m8 m9 m10 ");
        CHECK(out.turned_away() == 7);
    }
    SUBCASE("drop the oldest address") {
        courier::addressed_channel<Hailed> hailed{"hailed"};
        std::string log;
        const courier::subscription all =
            hailed.subscribe([&](const Hailed& h) { log += std::to_string(h.order) + " "; });
        const courier::addressed_poster<Hailed> out{
            s.later, hailed, {.keep = keep::one_per_address, .limit = 2, .when_full = courier::when_full::drop_oldest}};
        for (int i = 1; i <= 5; ++i) {
            out.post_to(i, {i});
        }
        out.post_to(5, {50});
        out.post_to(1, {10}); // was dropped, so it is new
        s.later.deliver();
        CHECK(log == "50 10 ");
    }
}

TEST_CASE("a budget leaves the rest in order, and nothing starves") {
    scene s;
    for (int i = 1; i <= 3; ++i) {
        s.post(i);
        s.later.post(s.left, {.boat = i});
    }
    const courier::round_report r = s.later.deliver({.payloads = 2});
    CHECK(s.log == "m1 m2 ");
    CHECK(r.left == 4);
    CHECK(r.rounds == 0);
    CHECK_FALSE(r.quiet);
    s.post(9); // waits for the next round
    CHECK(s.later.deliver({.payloads = 3}).left == 1);
    s.later.deliver({.payloads = 3});
    CHECK(s.log == "m1 m2 m3 l1 l2 l3 ");
    s.later.deliver({.payloads = 3});
    CHECK(s.log == "m1 m2 m3 l1 l2 l3 m9 ");
    s.post(1);
    s.post(2);
    CHECK(s.later.deliver({.spent = [] { return true; }}).delivered == 1); // one at least
    CHECK(s.later.deliver(courier::time_budget(std::chrono::hours(1))).quiet);
}

TEST_CASE("an outbox may keep the order of posts across channels, whatever is dropped or combined") {
    scene s;
    outbox later{"in order", {.order = courier::round_order::as_posted}};
    const poster<Moored> moored{later, s.moored, {.limit = 3, .when_full = courier::when_full::drop_oldest}};
    const poster<Moored> left{later, s.left, {.keep = keep::one}};
    std::string pieces;
    s.in.subscribe(s.moored, [&](std::span<const Moored> all) { pieces += std::to_string(all.size()) + " "; });
    for (int i = 1; i <= 4; ++i) { // of the first channel, 1 is dropped; of the second, 40 waits in the place of 10
        moored.post({.boat = i});
        left.post({.boat = 10 * i});
    }
    later.post_all(s.left, std::vector<Moored>{{7}, {8}});
    moored.post({.boat = 9}); // 2 gives way
    const auto wake = [&](const Moored&) { moored.post({.boat = 5}); };
    const courier::subscription again = s.left.subscribe(wake, {.times = 1});
    CHECK(later.deliver({.payloads = 3}).left == 3);
    CHECK(s.log == "l40 m3 m4 ");
    CHECK(later.deliver().rounds == 1);
    CHECK(s.log == "l40 m3 m4 l7 l8 m9 ");
    later.deliver();
    CHECK(s.log == "l40 m3 m4 l7 l8 m9 m5 ");
    CHECK(pieces == "2 1 1 ");
}

TEST_CASE("outbox, channel and poster may end in any order, also in a round") {
    SUBCASE("the channel first") {
        auto moored = std::make_unique<channel<Moored>>("moored");
        outbox later;
        const poster<Moored> out{later, *moored};
        later.post(*moored, {});
        out.post({});
        moored.reset();
        CHECK_FALSE(out.connected());
        CHECK_FALSE(out.post({}));
        CHECK(later.deliver().quiet);
        CHECK(later.list().size() == 1); // the poster's; nobody uses the other any more
    }
    SUBCASE("channels that come and go are forgotten") {
        outbox later;
        for (int i = 0; i < 10; ++i) {
            channel<Moored> moored{"moored"};
            later.post(moored, {});
            later.deliver();
        }
        CHECK(later.list().size() == 1); // until the next one is posted on
    }
    SUBCASE("the outbox first") {
        channel<Chart> charts{"charts"};
        auto later = std::make_unique<outbox>();
        const poster<Chart> out{*later, charts};
        out.post({std::make_unique<int>(1)});
        later.reset();
        CHECK_FALSE(out.post({}));
        CHECK(out.waiting() == 0);
    }
    SUBCASE("everything, in a round") {
        auto moored = std::make_unique<channel<Moored>>("moored");
        auto later = std::make_unique<outbox>();
        auto out = std::make_unique<poster<Moored>>(*later, *moored);
        int served = 0;
        const courier::subscription s = moored->subscribe([&] {
            ++served;
            out.reset();
            later.reset();
            moored.reset();
        });
        out->post({});
        out->post({});
        CHECK(later->deliver().quiet);
        CHECK(served == 1);
    }
    SUBCASE("a poster that goes takes its empty backlog along") {
        scene s;
        {
            const poster<Moored> out{s.later, s.moored};
            const poster<Moored> copy = out;
            out.post({.boat = 1});
        }
        CHECK(s.later.list().size() == 1);
        s.later.deliver();
        CHECK(s.log == "m1 ");
        CHECK(s.later.list().empty());
    }
}

TEST_CASE("delivering from within a round is refused") {
    scene s;
    s.in.subscribe(s.moored, [&] { CHECK(s.later.deliver().delivered == 0); });
    s.post(1);
    const test::fault_catcher faults;
    s.later.deliver();
    CHECK(faults.told_once({"[courier.nested-round]"}));
}

TEST_CASE("a relay may go through an outbox, and then crosses frames instead of nesting") {
    scene s;
    const poster<Moored> later_left{s.later, s.left};
    const courier::relay r{s.moored, later_left, [](const Moored& m) { return Moored{.boat = m.boat + 1}; }};
    const courier::relay back{s.left, poster<Moored>{s.later, s.moored}}; // no circle within one publish
    s.moored.publish({.boat = 1});
    CHECK(s.log == "m1 ");
    s.later.deliver();
    s.later.deliver();
    CHECK(s.log == "m1 l2 m2 ");
}
