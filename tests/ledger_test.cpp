// The ledger's books. Every name has "ledger" in it, since one is attached to
// the other tests.
#include "support.hpp"

#include <courier/addressed_channel.hpp>
#include <courier/depth.hpp>
#include <courier/hub.hpp>
#include <courier/ledger.hpp>
#include <courier/outbox.hpp>
#include <courier/pipeline.hpp>
#include <courier/poster.hpp>
#include <courier/publisher.hpp>
#include <courier/query.hpp>
#include <courier/state.hpp>
#include <courier/subscriber.hpp>

#include <doctest/doctest.h>

#include <chrono>
#include <memory>
#include <optional>
#include <span>
#include <stdexcept>
#include <string>
#include <thread>
#include <vector>

using courier::channel;
using courier::ledger;
using courier::turn;
using test::Dawn;
using test::Moored;

namespace reef_books {
struct Hailed {
    int order = 0;
};
struct DepthAsked {
    using answer = int;
    int hour = 0;
};
} // namespace reef_books

namespace {

using reef_books::DepthAsked;
using reef_books::Hailed;

const courier::channel_books& on(const courier::books& all, const std::string& name) {
    for (const courier::channel_books& c : all.channels) {
        if (c.name == name) {
            return c;
        }
    }
    throw std::out_of_range(name);
}

const courier::subscription_books& of(const courier::books& all, const std::string& subscriber) {
    for (const courier::subscription_books& s : all.subscriptions) {
        if (s.subscriber == subscriber) {
            return s;
        }
    }
    throw std::out_of_range(subscriber);
}

} // namespace

TEST_CASE("a ledger counts publishes, deliveries, unheard and stopped ones") {
    ledger night("night");
    channel<Moored> moored("harbour.moored");
    night.attach(moored);
    moored.publish({1, 2});
    courier::subscriber logbook("logbook");
    int cargo = 0;
    logbook.subscribe(moored, [&](const Moored& m) { cargo += m.cargo; });
    logbook.subscribe(moored,
                      [&](const Moored& m) { return m.boat == 3 ? courier::verdict::stop : courier::verdict::go_on; });
    courier::subscriber late("late");
    late.subscribe(moored, [] {});
    moored.publish({2, 10});
    moored.publish({3, 20});
    const courier::books all = night.read();
    const courier::channel_books& c = on(all, "harbour.moored");
    CHECK(cargo == 30);
    CHECK(c.published == 3);
    CHECK(c.deliveries == 5);
    CHECK(c.unheard == 1);
    CHECK(c.stopped == 1);
    CHECK(c.payload == "test::Moored");
    CHECK(of(all, "late").turns[turn::served] == 1);
    CHECK(of(all, "late").turns[turn::stopped] == 1);
    CHECK(of(all, "logbook").turns[turn::served] == 2);
    CHECK(of(all, "logbook").published_since == 2);
}

TEST_CASE("a ledger tells why a turn came to nothing") {
    ledger night("night");
    channel<Moored> moored("harbour.moored");
    night.attach(moored);
    courier::gate storm("storm", false);
    courier::subscriber a("gated");
    courier::subscriber b("picky");
    courier::subscriber c("paused");
    courier::subscriber d("failing");
    a.subscribe(moored, [] {}, {.during = storm});
    b.subscribe(moored, [] {}, {.condition = [](const Moored& m) { return m.boat == 1; }});
    c.subscribe(moored, [] {});
    d.subscribe(moored, [](const Moored& m) {
        if (m.boat == 2) {
            throw std::runtime_error("leak");
        }
    });
    moored.on_failure([](const courier::failure&) {});
    c.pause();
    moored.publish({1, 0});
    c.resume();
    storm.open();
    moored.publish({2, 0});
    const courier::books all = night.read();
    CHECK(of(all, "gated").turns[turn::gate_closed] == 1);
    CHECK(of(all, "gated").turns[turn::served] == 1);
    CHECK(of(all, "picky").turns[turn::condition] == 1);
    CHECK(of(all, "picky").turns[turn::served] == 1);
    CHECK(of(all, "paused").turns[turn::paused] == 1);
    CHECK(of(all, "paused").turns[turn::served] == 1);
    CHECK(of(all, "failing").turns[turn::failed] == 1);
    CHECK(on(all, "harbour.moored").deliveries == 2 + 3);
}

TEST_CASE("a ledger that is attached late knows who is there, and detaches without a trace") {
    channel<Moored> moored("harbour.moored");
    courier::subscriber early("early");
    int served = 0;
    early.subscribe(moored, [&] { ++served; });
    moored.publish({});
    {
        ledger night("night");
        night.attach(moored);
        moored.publish({});
        moored.publish({});
        const courier::books all = night.read();
        CHECK(of(all, "early").turns[turn::served] == 2);
        CHECK(of(all, "early").where.file.find("ledger_test") != std::string::npos);
        CHECK(of(all, "early").where.line != 0);
    }
    CHECK(moored.publish({}).served() == 1);
    CHECK(served == 4);
    ledger again("again");
    again.attach(moored);
    moored.publish({});
    CHECK(on(again.read(), "harbour.moored").published == 1);
}

TEST_CASE("a ledger lists live subscriptions with stage, address and age") {
    ledger night("night");
    courier::addressed_channel<Hailed, int> hailed("harbour.hailed");
    night.attach(hailed);
    constexpr courier::stage rules = courier::before(courier::ordinary, "rules");
    courier::subscriber barge("barge 3");
    courier::subscriber harbour("harbour");
    night.end_frame(std::chrono::seconds(1));
    night.end_frame(std::chrono::seconds(2));
    barge.subscribe(hailed.at(3), [] {});
    harbour.subscribe(hailed, [] {}, {.stage = rules});
    hailed.publish_to(3, {});
    hailed.publish_to(4, {});
    const courier::books all = night.read();
    CHECK(of(all, "barge 3").address == "3");
    CHECK(of(all, "barge 3").since_frame == 2);
    CHECK(of(all, "barge 3").since_time == 2'000'000'000);
    CHECK(of(all, "harbour").stage == "rules");
    CHECK(of(all, "harbour").address.empty());
    CHECK(of(all, "barge 3").turns[turn::served] == 1);
    CHECK(of(all, "harbour").turns[turn::served] == 2);
    CHECK(on(all, "harbour.hailed").vacant == 1);
    CHECK(all.publishers.size() == 2);
    CHECK(all.publishers[1].vacant == 1);
    CHECK(all.frames == 2);
}

TEST_CASE("a ledger knows publishers by name and line, and counts frames with a publish") {
    ledger night("night");
    channel<Dawn> dawn("watch.dawn");
    night.attach(dawn);
    const courier::publisher<Dawn> keeper(dawn, "keeper");
    for (int frame = 0; frame < 4; ++frame) {
        if (frame % 2 == 0) {
            keeper.publish();
            keeper.publish();
        }
        night.end_frame();
    }
    dawn.publish();
    const courier::books all = night.read();
    CHECK(all.publishers.size() == 3);
    CHECK(all.publishers[0].name == "keeper");
    CHECK(all.publishers[0].published == 2);
    CHECK(all.publishers[0].frames == 2);
    CHECK(all.publishers[2].name.empty());
    CHECK(on(all, "watch.dawn").frames == 3);
    CHECK(on(all, "watch.dawn").most_in_frame == 2);
}

TEST_CASE("a ledger gets the channels of its hub, those made later and below too") {
    ledger night("night");
    courier::hub reef("reef");
    courier::hub barge("barge", reef);
    reef.channel<Moored>().publish({});
    night.attach(reef);
    reef.channel<Moored>().publish({});
    reef.channel<Hailed>().publish({});
    barge.own<Dawn>().publish();
    auto& depth = reef.query<DepthAsked>();
    courier::subscriber office("office");
    office.answer(depth, [](const DepthAsked& q) { return q.hour; });
    CHECK(depth.ask({.hour = 4}) == std::optional(4));
    channel<Moored> local("local");
    local.publish({});
    const courier::books all = night.read();
    CHECK(on(all, "test::Moored").published == 1);
    CHECK(on(all, "test::Moored").hub == "reef");
    CHECK(on(all, "reef_books::Hailed").unheard == 1);
    CHECK(on(all, "test::Dawn").hub == "barge");
    CHECK(on(all, "reef_books::DepthAsked").is_query);
    CHECK(on(all, "reef_books::DepthAsked").deliveries == 1);
    CHECK_THROWS_AS(on(all, "local"), std::out_of_range);
}

TEST_CASE("a ledger of everything takes channels as they come, and states") {
    channel<Moored> before("before");
    ledger night("night");
    night.attach_everything();
    channel<Moored> after("after");
    courier::state<int> crates("crates", 1);
    courier::subscriber board("board");
    board.subscribe(crates, [] {});
    before.publish({});
    after.publish({});
    crates.set(2);
    const courier::books all = night.read();
    CHECK(on(all, "before").published == 1);
    CHECK(on(all, "after").published == 1);
    CHECK(on(all, "crates").deliveries == 1);
    CHECK(all.channels.size() == 3); // nothing of the library's own
}

TEST_CASE("a second ledger on a thread is refused and notes nothing; on another thread it works") {
    const test::fault_catcher faults;
    ledger night("night");
    channel<Dawn> dawn("dawn");
    night.attach(dawn);
    {
        ledger other("other");
        CHECK(faults.caught().size() == 1);
        CHECK(faults.caught()[0].code == courier::fault_code::second_ledger);
        CHECK(test::contains(faults.caught()[0].message, "ledger 'night' keeps this thread's books already"));
        CHECK_FALSE(other.working());
        other.attach(dawn);
        other.attach_everything();
        dawn.publish();
        CHECK(other.read().channels.empty());
    }
    std::thread([] {
        ledger own("own");
        channel<Dawn> there("there");
        own.attach(there);
        there.publish();
        CHECK(on(own.read(), "there").published == 1);
    }).join();
    CHECK(on(night.read(), "dawn").published == 1);
}

TEST_CASE("a ledger may be made and destroyed by a handler, and channels, subscribers end in any order") {
    channel<Dawn> dawn("dawn");
    std::optional<ledger> night;
    int served = 0;
    const courier::subscription first = dawn.subscribe([&] {
        if (++served == 1) {
            night.emplace("night").attach(dawn);
            dawn.publish();
        } else if (served == 3) {
            night.reset();
        }
    });
    const courier::subscription second = dawn.subscribe([&] { served += 10; });
    dawn.publish();
    CHECK(served == 22);
    night.reset();
    night.emplace("night");
    auto there = std::make_unique<channel<Dawn>>("there");
    night->attach(*there);
    courier::subscriber listener("listener");
    listener.subscribe(*there, [&] { there.reset(); });
    there->publish();
    const courier::books all = night->read();
    CHECK(all.parties.size() == 1);
    CHECK(all.parties[0].name == "listener");
    CHECK(all.parties[0].lost == 1);
    CHECK(all.parties[0].last_channel == "there");
    CHECK(all.subscriptions.empty());
    CHECK(on(all, "there").open == 0);
}

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
    const courier::poster<Moored> one(later, moored, {.waiting = courier::keep::one});
    const courier::poster<Moored> two(later, moored, {.most = 1});
    one.post({1, 0});
    one.post({2, 0});
    two.post({3, 0});
    two.post({4, 0});
    later.deliver();
    const courier::channel_books sums = on(night.read(), "moored");
    CHECK(sums.posted == 4);
    CHECK(sums.merged == 1);
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
        ledger night("night", {.shake = seed});
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
    REQUIRE(faults.caught().size() == 1);
    CHECK(test::contains(faults.caught()[0].message, "cannot adopt it; call ledger::detach() there before"));
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
