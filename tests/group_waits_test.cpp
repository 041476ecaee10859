// Waits for several, and for what has been already.
#include "sequence_scene.hpp"
#include "support.hpp"

using courier::sequence;
using test::scene;

namespace {

sequence<> all_of_them(scene& s, const courier::group<int>& who) {
    const auto all = co_await courier::all_in(who, [&](int hand) { return courier::next(s.stood_to.at(hand)); });
    s.note("all");
    for (const test::StoodTo& one : all) {
        s.note(one.after);
    }
}

sequence<> any_of_them(scene& s, const courier::group<int>& who) {
    const auto [hand, what] =
        co_await courier::any_in(who, [&](int member) { return courier::next(s.stood_to.at(member)); });
    s.note(hand * 10 + what.after);
}

} // namespace

TEST_CASE("waiting for all of a group does not wait for who leaves") {
    scene s;
    courier::group<int> crew{"crew"};
    std::vector<courier::membership<int>> hands;
    for (const int hand : {1, 2, 3}) {
        hands.push_back(crew.join(hand));
    }
    s.in->start(all_of_them(s, crew));
    s.stood_to.publish_to(3, {.after = 30});
    SUBCASE("one leaves before the last stands to") {
        hands[1].end();
        CHECK(s.taken().empty());
        s.stood_to.publish_to(2, {.after = 20}); // no longer wanted
        s.stood_to.publish_to(1, {.after = 10});
        CHECK(s.taken() == "all 10 30 ");
    }
    SUBCASE("the last that are missing leave") {
        hands[0].end();
        hands[1].end();
        CHECK(s.taken() == "all 30 ");
    }
    SUBCASE("who has stood to leaves") {
        hands[2].end();
        s.stood_to.publish_to(1, {.after = 10});
        s.stood_to.publish_to(2, {.after = 20});
        CHECK(s.taken() == "all 10 20 30 ");
    }
    SUBCASE("all leave") {
        hands.clear();
        CHECK(s.taken() == "all 30 ");
    }
    CHECK(courier::list_sequences().empty());
}

TEST_CASE("waiting for the first of a group does not wait for who leaves") {
    scene s;
    courier::group<int> crew{"crew"};
    auto one = crew.join(1);
    auto two = crew.join(2);
    s.in->start(any_of_them(s, crew));
    one.end();
    s.stood_to.publish_to(1, {.after = 5});
    CHECK(s.taken().empty());
    s.stood_to.publish_to(2, {.after = 7});
    CHECK(s.taken() == "27 ");
}

TEST_CASE("a group of which nobody is left, and the sequence that it ends with") {
    scene s;
    courier::group<int> crew{"crew"};
    auto one = crew.join(1);
    s.in->start(any_of_them(s, crew));
    one.end();
    REQUIRE(courier::list_sequences().size() == 1);
    CHECK(courier::list_sequences()[0].source_gone);
    auto two = crew.join(2);
    s.in->start(all_of_them(s, crew));
    s.in->subscribe(crew.left(), [&] { s.in.reset(); }); // behind the wait's own
    two.end();
    CHECK(s.taken() == "all ");
    CHECK(courier::list_sequences().empty());
}

namespace {

sequence<> both(scene& s, courier::next_options options) {
    const auto [port, starboard] =
        co_await courier::when_all(courier::next(*s.port, options), courier::next(s.starboard, options));
    s.note(port.boat * 10 + starboard.boat);
}

sequence<> big_one(scene& s) {
    const auto boat =
        co_await courier::next(*s.port, [](const test::Moored& m) { return m.boat > 5; }, {.retained = true});
    s.note(boat.boat);
}

} // namespace

TEST_CASE("a wait may be for what has come already") {
    scene s;
    s.port->retain_latest();
    s.starboard.retain_latest();
    s.publish(4);
    s.in->start(both(s, {.retained = true}));
    s.in->start(both(s, {}));
    s.starboard.publish({.boat = 2});
    CHECK(s.taken() == "42 ");
    s.publish(6);
    CHECK(s.taken() == "62 ");
    s.publish(3);
    s.in->start(big_one(s)); // what is there does not pass
    CHECK(s.taken().empty());
    s.publish(8);
    CHECK(s.taken() == "8 ");
    s.in->start(big_one(s));
    CHECK(s.taken() == "8 ");
}

TEST_CASE("waits for several tell what they still wait for, and a ledger") {
    scene s;
    courier::ledger night{"night"};
    night.attach_everything();
    s.in->start(both(s, {}));
    const auto waits_for = [] { return courier::list_sequences().at(0).waits_for; };
    CHECK(waits_for() == "all of (the next of 'port', the next of 'starboard')");
    s.publish(1);
    CHECK(waits_for() == "all of (the next of 'starboard'; 1 is over)");
    CHECK_FALSE(courier::list_sequences()[0].source_gone);
    CHECK(courier::list_sequences()[0].channel == "starboard");
    CHECK(courier::audit(night.read()).count(courier::finding_code::waits_for_ever) == 1); // nobody publishes there
    s.starboard.publish({.boat = 1});
    CHECK(courier::audit(night.read()).clean());
}

TEST_CASE("a ledger tells that a wait for several is hopeless when one that it needs is gone") {
    scene s;
    s.in->start(both(s, {}));
    s.port.reset();
    CHECK(courier::list_sequences().at(0).source_gone);
    courier::ledger night{"night"};
    CHECK(courier::audit(night.read()).count(courier::finding_code::waits_for_ever) == 1);
}
