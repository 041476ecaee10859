// Causes that end and come again.
#include "support.hpp"

#include <courier/wiring/wiring_audit.hpp>

using namespace wired;

TEST_CASE("a cause of another type is taken by wires that are loaded again") {
    harbour h;
    const std::string text = "[[wire]]\nwhen = 'hoist.raised'\ndo = 'horn.sound'\n";
    REQUIRE(h.load(text) == "");
    courier::channel<Named> other("hoist.raised");
    h.wires.offer(other);
    other.publish({});
    CHECK(h.said() == "");
    REQUIRE(h.load(text) == "");
    CHECK(h.change.added == 1);
    other.publish({});
    h.raised.publish({});
    CHECK(h.said() == "horn");
}

TEST_CASE("causes that end and come again: wires wait, say so, and go on") {
    const std::string text = R"(
[[wire]]
name = "fanfare"
when = "level.begun"
times = 3
during = "level.watch.dusk"
while = { "level.depth" = 3 }
do = "horn.sound"
[[wire]]
when = "level.rung"
at = "north bell"
do = { action = "bell.ring", at = "{at}", parameters = { strokes = "{order}" } }
[[wire]]
when = "level.depth"
do = { action = "board.write", parameters = { text = "{after} deep" } }
)";
    struct level {
        explicit level(courier::hub& game) : own("level", game) {}
        courier::hub own;
        courier::channel<Judged>& begun = own.channel(courier::channel_name<Judged>("level.begun"));
        courier::addressed_channel<Hailed, bell> rung{"level.rung"};
        courier::state<int> depth{"level.depth", 3};
        courier::phases<watch> part{"level.watch", watch::dusk};
    };
    harbour h;
    courier::hub game("game");
    h.wires.offer(game); // and so what levels make
    const courier::named_target north = h.wires.target("north bell", bell::north);
    std::unique_ptr<level> now;
    const auto begin = [&] {
        now = std::make_unique<level>(game);
        h.wires.offer(now->rung);
        h.wires.offer(now->depth);
        h.wires.offer(now->part);
    };
    const auto play = [&] {
        now->begun.publish({});
        now->rung.publish_to(bell::south, {5});
        now->rung.publish_to(bell::north, {2});
        now->depth.set(4);
        now->begun.publish({});
        return h.said();
    };
    begin();
    REQUIRE(h.load(text) == "");
    CHECK(play() == "horn | north 2 | 4 deep");
    for (int round = 0; round < 3; ++round) {
        CHECK(courier::audit(h.wires).clean());
        now.reset();
        for (const courier::wire_report& one : h.wires.wires()) {
            CHECK((one.waits_for_cause && !one.live));
        }
        const courier::audit_report report = courier::audit(h.wires);
        REQUIRE(report.count(courier::finding_code::cause_ended) == 3);
        CHECK(report.findings[0].what == "'fanfare' waits for 'level.begun', which has ended");
        begin();
        CHECK(play() == (round < 2 ? "horn | north 2 | 4 deep" : "north 2 | 4 deep")); // 'times' goes on
        REQUIRE(h.load(text) == "");
        CHECK(h.change.kept == 3);
    }
}
