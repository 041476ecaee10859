// What a ledger counts of turns and posts. Every name has "ledger" in it, since one is attached to
// the other tests.
#include "ledger_scene.hpp"

using namespace ledger_scene;

TEST_CASE("a ledger counts turns exactly when handlers end others, or come late") {
    ledger night("night");
    channel<Moored> moored("moored");
    night.attach(moored);
    courier::subscriber killer("killer");
    courier::subscriber victim("victim");
    courier::subscriber last("last");
    std::vector<courier::subscription> late;
    killer.subscribe(moored, [&](const Moored& m) {
        if (m.boat == 2) {
            victim.clear();
            late.push_back(moored.subscribe([] {}));
        }
    });
    victim.subscribe(moored, [] {});
    last.subscribe(moored, [] {}, {.times = 3});
    for (int boat = 0; boat < 5; ++boat) {
        moored.publish({boat, 0});
    }
    const courier::books all = night.read();
    CHECK(of(all, "killer").turns[turn::served] == 5);
    CHECK(of(all, "").turns[turn::served] == 2);
    CHECK(all.subscribes.size() == 4);
    CHECK(all.subscribes[1].turns[turn::served] == 2); // not the one in which it ended
    CHECK(all.subscribes[1].live == 0);
    CHECK(all.subscribes[2].turns[turn::served] == 3);
    CHECK(on(all, "moored").deliveries == 5 + 2 + 3 + 2);
}

TEST_CASE("a ledger knows posts that merge or are turned away, and refused publishes") {
    ledger night("night");
    channel<Moored> moored("moored");
    night.attach(moored);
    courier::outbox later("later");
    const courier::poster<Moored> one(later, moored, {.keep = courier::keep::one});
    const courier::poster<Moored> two(later, moored, {.limit = 1});
    one.post({1, 0});
    one.post({2, 0});
    two.post({3, 0});
    two.post({4, 0});
    later.deliver();
    const courier::channel_books sums = on(night.read(), "moored");
    CHECK(sums.posted == 4);
    CHECK(sums.combined == 1);
    CHECK(sums.turned_away == 1);
    CHECK(sums.published == 2);
    const courier::subscription round = moored.subscribe([&] { moored.publish({}); });
    moored.publish({});
    CHECK(on(night.read(), "moored").refused == 1);
}

TEST_CASE("a ledger times handlers, slow ones each time") {
    ledger night("night");
    channel<Dawn> dawn("dawn");
    night.attach(dawn);
    courier::subscriber slow("slow");
    courier::subscriber quick("quick");
    slow.subscribe(dawn, [] {
        const auto until = std::chrono::steady_clock::now() + std::chrono::microseconds(200);
        while (std::chrono::steady_clock::now() < until) {}
    });
    quick.subscribe(dawn, [] {});
    for (int i = 0; i < 10; ++i) {
        dawn.publish();
    }
    const courier::books all = night.read();
    CHECK(of(all, "slow").times.measured == 10);
    CHECK(of(all, "slow").times.worst >= 200'000);
    CHECK(of(all, "slow").times.typical >= 131'000);
    CHECK(of(all, "quick").times.measured == 10);
}

TEST_CASE("a ledger shakes the order inside a stage by seed, and only there") {
    const auto order_with = [](std::uint64_t seed) {
        ledger night("night", {.order_seed = seed});
        channel<Dawn> dawn("dawn");
        night.attach(dawn);
        constexpr courier::stage after = courier::after(courier::ordinary, "after");
        test::trace order;
        std::vector<courier::subscription> all;
        for (int i = 0; i < 8; ++i) {
            all.push_back(
                dawn.subscribe([&order, i] { order.push_back(i); }, {.stage = i < 4 ? courier::ordinary : after}));
        }
        dawn.publish();
        dawn.publish();
        return order;
    };
    const test::trace plain = order_with(0);
    const test::trace one = order_with(1);
    CHECK(plain == test::trace{0, 1, 2, 3, 4, 5, 6, 7, 0, 1, 2, 3, 4, 5, 6, 7});
    CHECK(one == order_with(1));
    CHECK(one != plain);
    CHECK(one != order_with(2));
    for (std::size_t i = 0; i < 16; ++i) {
        CHECK((one[i] < 4) == (i % 8 < 4));
    }
}

TEST_CASE("a ledger counts what handlers of spans and one address are served") {
    ledger night("night");
    channel<Moored> moored("moored");
    night.attach(moored);
    courier::subscriber spans("spans");
    std::size_t together = 0;
    spans.subscribe(moored, [&](std::span<const Moored> all) { together += all.size(); });
    const std::vector<Moored> three{{1, 0}, {2, 0}, {3, 0}};
    CHECK(moored.publish_all(three).served() == 3);
    courier::subscriber single("single");
    single.subscribe(moored,
                     [](const Moored& m) { return m.boat == 2 ? courier::verdict::stop : courier::verdict::go_on; });
    moored.publish_all(three);
    const courier::books all = night.read();
    CHECK(together == 6);
    CHECK(on(all, "moored").published == 6);
    CHECK(of(all, "spans").turns[turn::served] == 6);
    CHECK(of(all, "single").turns[turn::served] == 3);
}

TEST_CASE("a ledger counts nothing for what comes and goes within one publish") {
    ledger night("night");
    courier::addressed_channel<Hailed, int> hailed("hailed");
    night.attach(hailed);
    courier::subscriber harbour("harbour");
    courier::subscriber barge("barge");
    bool ends = false;
    harbour.subscribe(hailed, [&] {
        const courier::subscription once = hailed.subscribe([] {});
        if (ends) {
            barge.clear();
        }
    });
    barge.subscribe(hailed.at(1), [] {});
    hailed.publish({});
    hailed.publish_to(1, {});
    ends = true;
    hailed.publish_to(1, {}); // the barge is still to come, and ends
    const courier::books all = night.read();
    REQUIRE(all.subscribes.size() == 3);
    CHECK(all.subscribes[0].turns[turn::served] == 3);
    CHECK(all.subscribes[1].turns[turn::served] == 2); // the barge
    CHECK(all.subscribes[2].turns[turn::served] == 0);
    CHECK(all.subscribes[2].made == 3);
}

TEST_CASE("a ledger takes what all pipelines let fall for unheard, however often it comes") {
    ledger night("night");
    channel<Moored> moored("moored");
    night.attach(moored);
    courier::subscriber board("board");
    board.subscribe(moored | courier::filter([](const Moored& m) { return m.boat == 9; }), [] {});
    for (int boat = 0; boat < 10; ++boat) {
        moored.publish({boat, 0});
    }
    const courier::books all = night.read();
    CHECK(on(all, "moored").unheard == 9);
    CHECK(on(all, "moored").deliveries == 1);
    CHECK(all.publishers[0].unheard == 9);
    CHECK(of(all, "board").turns[turn::filtered] == 9);
}

TEST_CASE("a ledger knows who published each of several, and takes no name for another's") {
    ledger night("night");
    channel<Moored> moored("moored");
    night.attach(moored);
    auto keeper = std::make_unique<courier::publisher<Moored>>(moored, "a keeper with a name too long to lie inside");
    const std::vector<Moored> three{{1, 0}, {2, 0}, {3, 0}};
    keeper->publish_all(std::span<const Moored>{});
    moored.publish({}); // nobody's
    const courier::subscription gone = moored.subscribe([&] { keeper.reset(); });
    keeper->publish_all(three);
    moored.publish({});
    const courier::books all = night.read();
    REQUIRE(all.publishers.size() == 3);
    CHECK(all.publishers[0].name.empty());
    CHECK(all.publishers[1].name == "a keeper with a name too long to lie inside");
    CHECK(all.publishers[1].published == 3);
    CHECK(all.publishers[2].name.empty());
}

TEST_CASE("a ledger lets go of one channel, which another thread may then have") {
    const test::fault_catcher faults;
    ledger night("night");
    channel<Moored> moored("moored");
    night.attach(moored);
    courier::subscriber logbook("logbook");
    logbook.subscribe(moored, [] {});
    moored.publish({});
    std::thread([&] { moored.adopt(); }).join();
    CHECK(faults.told_once({"cannot adopt it; call ledger::detach() there first"}));
    night.detach(moored);
    moored.publish({});
    const courier::books all = night.read();
    CHECK(on(all, "moored").published == 1);
    CHECK(on(all, "moored").open == 0);
    CHECK(all.subscriptions.empty());
    CHECK(all.subscribes[0].turns[turn::served] == 1);
    std::thread([&] {
        moored.adopt();
        ledger own("own");
        own.attach(moored);
        moored.publish({});
        CHECK(on(own.read(), "moored").deliveries == 1);
    }).join();
    CHECK(faults.caught().size() == 1);
    moored.adopt();
}

TEST_CASE("a ledger counts the turns of a handler that takes spans where they are taken, once for each payload") {
    for (const bool attached_in_the_middle : {false, true}) {
        CAPTURE(attached_in_the_middle);
        courier::ledger books{"night"};
        channel<Moored> surges{"surges"};
        if (!attached_in_the_middle) {
            books.attach(surges);
        }
        courier::subscription spans;
        const auto single = surges.subscribe([&](const Moored& s) {
            if (s.boat == 3) {
                attached_in_the_middle ? books.attach(surges) : spans.resume();
            }
        });
        int served = 0;
        spans = surges.subscribe([&](std::span<const Moored> all) { served += static_cast<int>(all.size()); },
                                 {.condition = [](const Moored& s) { return s.boat != 2; }});
        if (!attached_in_the_middle) {
            spans.pause();
        }
        const std::array<Moored, 3> three{{{1, 0}, {2, 0}, {3, 0}}};
        surges.publish_all(three);
        surges.publish({4, 0});
        spans.pause();
        surges.publish_all(three);
        for (const courier::subscribe_site_books& s : books.read().subscribes) {
            if (s.turns[courier::turn::condition] != 0) {
                CHECK(s.turns[courier::turn::served] == static_cast<std::uint64_t>(served));
                CHECK(s.turns[courier::turn::condition] == (attached_in_the_middle ? 1 : 2));
                CHECK(s.turns[courier::turn::paused] == (attached_in_the_middle ? 3 : 0));
            }
        }
        CHECK(served == (attached_in_the_middle ? 3 : 5));
    }
}
