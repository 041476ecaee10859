// The ledger's books. Every name has "ledger" in it, since one is attached to
// the other tests.
#include "ledger_scene.hpp"

using namespace ledger_scene;

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
    courier::period storm("storm", {.running = false});
    courier::subscriber a("gated");
    courier::subscriber b("picky");
    courier::subscriber c("paused");
    courier::subscriber d("failing");
    courier::subscriber e("asleep");
    e.follow(c);
    e.subscribe(moored, [] {});
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
    storm.begin();
    moored.publish({2, 0});
    const courier::books all = night.read();
    CHECK(of(all, "gated").turns[turn::outside_period] == 1);
    CHECK(of(all, "gated").turns[turn::served] == 1);
    CHECK(of(all, "picky").turns[turn::condition] == 1);
    CHECK(of(all, "picky").turns[turn::served] == 1);
    CHECK(of(all, "paused").turns[turn::paused] == 1);
    CHECK(of(all, "paused").turns[turn::served] == 1);
    CHECK(of(all, "failing").turns[turn::failed] == 1);
    CHECK(of(all, "asleep").turns[turn::asleep] == 1);
    CHECK(of(all, "asleep").turns[turn::served] == 1);
    CHECK(on(all, "harbour.moored").deliveries == 2 + 4);
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
    CHECK(on(all, "watch.dawn").max_in_frame == 2);
}

TEST_CASE("a ledger gets the channels of its hub, those made later and below too") {
    ledger night("night");
    courier::hub reef("reef");
    courier::hub barge("barge", reef);
    reef.channel<Moored>().publish({});
    night.attach(reef);
    reef.channel<Moored>().publish({});
    reef.channel<Hailed>().publish({});
    barge.own_channel<Dawn>().publish();
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
    CHECK(std::count_if(all.channels.begin(), all.channels.end(), [](const auto& c) { return !c.is_owned; }) == 3);
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
        CHECK(test::contains(faults.caught()[0].text(), "ledger 'night' keeps this thread's books already"));
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
