// Wires in force: what they do, when, and how often.
#include "support.hpp"

#include <courier/hub_values.hpp>

#include <courier/wiring/wiring_audit.hpp>

using namespace wired;
using namespace std::chrono_literals;

TEST_CASE("a cause sets off actions, in their order, with constants and fields") {
    harbour h;
    REQUIRE(h.load(R"(
[[wire]]
when = "wyrms.sighted"
if = { distance = { less_than = 5 } }
do = [
  { action = "board.write", parameters = { text = "wyrm {wyrm} at {at.y:.2}, {distance * 185.2} m, shows {shown}, {{sic}}" } },
  "horn.sound",
]
)") == "");
    h.sighted.publish(harbour::wyrm(3, 7));
    CHECK(h.said() == "");
    h.sighted.publish(harbour::wyrm(3, 4));
    CHECK(h.said() == "wyrm 3 at 2.50, 740.8 m, shows gull, {sic} | horn");
}

TEST_CASE("conditions: every kind of them, on fields, fields of fields, and states") {
    harbour h;
    const auto does = [&](const std::string& conditions, const Sighted& what) {
        CAPTURE(conditions);
        REQUIRE(h.load("[[wire]]\nwhen = 'wyrms.sighted'\ndo = 'horn.sound'\n" + conditions) == "");
        h.sighted.publish(what);
        return h.said() == "horn";
    };
    Sighted one = harbour::wyrm(3, 4);
    CHECK(does("if.wyrm = 3", one));
    CHECK_FALSE(does("if.wyrm = 4", one));
    CHECK(does("if.wyrm = [1, 3]", one));
    CHECK_FALSE(does("if.wyrm = { not = 3 }", one));
    CHECK_FALSE(does("if.wyrm = { not = [1, 3] }", one));
    CHECK(does("if.distance = { between = [4, 9] }", one));
    CHECK_FALSE(does("if.distance = { more_than = 4 }", one));
    CHECK(does("if.distance = { at_least = 4, at_most = 4 }", one));
    CHECK(does("if.at.y = { more_than = 2, less_than = 3 }", one));
    CHECK(does("if = { at = { x = 1 }, what = 'wyrm' }", one));
    CHECK_FALSE(does("if.what = { not = 'wyrm' }", one));
    CHECK(does("if.shown = 'gull'", one));
    CHECK(does("if.shown = ['whale', 'gull']", one));
    CHECK_FALSE(does("if.near = true", one));
    CHECK(does("if.heads = { at_least = 3 }", one));
    CHECK(does("if.since = { at_most = '1500 ms' }", one));
    CHECK_FALSE(does("if.depth = { less_than = 9 }", one));
    one.depth = 4;
    CHECK(does("if.depth = { less_than = 9 }", one));
    CHECK(does("while.tide.level = 4", one));
    CHECK(does("while = { 'tide.level' = { at_least = 4 } }", one));
    h.tide.set(3);
    CHECK_FALSE(does("while.tide.level = 4", one));
}

TEST_CASE("parameters: constants, fields, states and texts become what the action takes") {
    harbour h;
    const auto takes = [&](const std::string& with) {
        h.numbers.reset();
        REQUIRE(h.load("[[wire]]\nwhen = 'wyrms.sighted'\n[[wire.do]]\naction = 'numbers.take'\n" + with) == "");
        Sighted one = harbour::wyrm(300, 4);
        one.near = true;
        h.sighted.publish(one);
    };
    takes(R"(parameters = { whole = -5, small = 255, real = 2, time = "1.5 s", shown = "anchor", yes = true })");
    REQUIRE(h.numbers);
    CHECK(h.numbers->whole == -5);
    CHECK(h.numbers->small == 255);
    CHECK(h.numbers->real == 2);
    CHECK(h.numbers->time == 1500ms);
    CHECK(h.numbers->shown == flag::anchor);
    CHECK(h.numbers->yes);
    CHECK_FALSE(h.numbers->perhaps);
    takes(R"([wire.do.parameters]
whole = "{tide.level}"
small = "{heads * 2 :.0}"
real = "{wyrm * 0.5}"
time = "{since}"
shown = "{shown}"
yes = "{near}"
perhaps = 9
)");
    REQUIRE(h.numbers);
    CHECK(h.numbers->whole == 4);
    CHECK(h.numbers->small == 6);
    CHECK(h.numbers->real == 150);
    CHECK(h.numbers->time == 1500ms);
    CHECK(h.numbers->shown == flag::gull);
    CHECK(h.numbers->yes);
    CHECK(h.numbers->perhaps == 9);
    takes(R"(parameters = { whole = 1, small = "{wyrm}", real = 2, time = 3, shown = "whale", yes = true })");
    CHECK_FALSE(h.numbers); // 300 does not fit into eight bits
    REQUIRE(h.wires.wires().size() == 1);
    CHECK(h.wires.wires()[0].failures == 1);
    CHECK(h.wires.wires()[0].last_failure == "'numbers.take': a number does not fit");
}

TEST_CASE("success and failure lead to further actions, which may use the answer") {
    harbour h;
    REQUIRE(h.load(R"(
[[wire]]
when = "hoist.raised"
  [[wire.do]]
  action = "hoist.judge"
  parameters = { shown = "{shown}" }
    [[wire.do.done]]
    action = "board.write"
    parameters = { text = "{shown} is right, {answer} points" }
    [[wire.do.failed]]
    action = "horn.sound"
      [[wire.do.failed.done]]
      action = "board.write"
      parameters = { text = "strike {shown}" }
)") == "");
    h.raised.publish({flag::whale});
    CHECK(h.said() == "whale is right, 7 points");
    h.raised.publish({flag::gull});
    CHECK(h.said() == "horn | strike gull");
    CHECK(h.wires.wires()[0].last_failure == "'hoist.judge': the wrong flag");
}

TEST_CASE("a wire of a later time keeps what it was told, and is not too often") {
    harbour h;
    REQUIRE(h.load(R"(
[[wire]]
when = "wyrms.sighted"
after = "2 s"
do = { action = "board.write", parameters = { text = "was {wyrm}, tide {tide.level}" } }
[[wire]]
when = "hoist.raised"
every = 3
times = 2
do = "horn.sound"
)") == "");
    h.sighted.publish(harbour::wyrm(1, 1));
    h.tide.set(9);
    CHECK(h.wires.wires()[0].delayed == 1);
    h.pass(1999ms);
    CHECK(h.said() == "");
    h.pass(1ms);
    CHECK(h.said() == "was 1, tide 4");
    CHECK(h.wires.wires()[0].delayed == 0);
    h.raised.publish({});
    h.raised.publish({});
    CHECK(h.said() == "horn");
    h.pass(3s);
    h.raised.publish({});
    h.pass(3s);
    h.raised.publish({});
    CHECK(h.said() == "horn");
}

TEST_CASE("phases and sets switch wires on and off") {
    harbour h;
    REQUIRE(h.load(R"(
[set.storm]
during = "watch.storm"
[set.feast]
enabled = false
[[wire]]
when = "hoist.raised"
during = ["watch.dusk", "watch.dawn"]
do = { action = "board.write", parameters = { text = "calm" } }
[[wire]]
when = "hoist.raised"
set = "storm"
do = { action = "board.write", parameters = { text = "storm" } }
[[wire]]
when = "hoist.raised"
set = "feast"
do = { action = "board.write", parameters = { text = "feast" } }
)") == "");
    h.raised.publish({});
    CHECK(h.said() == "calm");
    h.hours.move_to(watch::storm);
    CHECK(h.wires.switch_set("feast", true));
    CHECK_FALSE(h.wires.switch_set("fest", true));
    h.raised.publish({});
    CHECK(h.said() == "storm | feast");
    CHECK(h.wires.switch_set("storm", false));
    h.raised.publish({});
    CHECK(h.said() == "feast");
}

TEST_CASE("patterns are written once and used for many") {
    harbour h;
    const courier::named_target north = h.wires.target("north bell", bell::north);
    const courier::named_target south = h.wires.target("south bell", bell::south);
    REQUIRE(h.load(R"(
[pattern."bell answers"]
gaps = ["bell", "strokes", "from"]
when = "hoist.raised"
if = { shown = "<from>" }
do = [
  { action = "bell.ring", at = "<bell> bell", parameters = { strokes = "<strokes>" } },
  { action = "board.write", parameters = { text = "<bell>, {shown}" } },
]
[[fill]]
pattern = "bell answers"
each = [ { bell = "north", strokes = 1, from = "whale" }, { bell = "south", strokes = 2, from = "gull" } ]
)") == "");
    h.raised.publish({flag::whale});
    CHECK(h.said() == "north 1 | north, whale");
    h.raised.publish({flag::gull});
    CHECK(h.said() == "south 2 | south, gull");
    CHECK(h.wires.wires()[1].name == "bell answers(south, 2, gull)");
}

TEST_CASE("states are causes, and can be set; channels can be published on") {
    harbour h;
    REQUIRE(h.load(R"(
[[wire]]
when = "tide.level"
if = { after = { more_than = 5 } }
do = [ { action = "hoist.raised", parameters = { shown = "anchor" } },
       { action = "board.write", parameters = { text = "{before} to {after}" } } ]
[[wire]]
when = "wyrms.sighted"
do = { action = "set tide.level", parameters = { value = "{distance}" } }
[[wire]]
when = "hoist.raised"
do = { action = "board.write", parameters = { text = "{shown}" } }
)") == "");
    h.sighted.publish(harbour::wyrm(1, 8));
    CHECK(h.tide.glance() == 8);
    CHECK(h.said() == "anchor | 4 to 8");
}

TEST_CASE("either side may go first: causes, actions, owners, and the wiring in the middle of itself") {
    courier::outbox later{"later"};
    auto wires = std::make_unique<courier::wiring>("short");
    auto cause = std::make_unique<courier::channel<Judged>>("raised");
    auto other = std::make_unique<courier::state<int>>("level", 1);
    auto owner = std::make_unique<courier::subscriber>("owner");
    int called = 0;
    wires->offer(*cause);
    wires->offer(*other);
    wires->action(*owner, "count", [&] { ++called; });
    wires->action(*owner, "end", [&] { wires.reset(); });
    wires->load_text("a.toml", R"(
[[wire]]
when = "raised"
do = ["count"]
[[wire]]
when = "level"
do = ["count", "end", "count"]
)");
    cause->publish({});
    CHECK(called == 1);
    owner->pause();
    cause->publish({});
    CHECK(called == 1);
    CHECK(wires->wires()[0].last_failure == "'count': nobody offers it now");
    owner->resume();
    cause.reset();
    wires->load_text("b.toml", "[[wire]]\nwhen = 'level'\ndo = ['count', 'end', 'count']\n");
    other->set(2);
    CHECK(called == 2); // what comes behind the end is not done
    CHECK(wires == nullptr);
    other->set(3);
    CHECK(called == 2);
}

TEST_CASE("a wire that comes in the middle of itself has parameters of its own each time") {
    courier::channel<Ring> asked("asked");
    courier::subscriber in("in");
    courier::wiring wires("nested");
    std::vector<int> seen;
    wires.offer(asked);
    wires.action<Ring>(in, "ring", [&](const Ring& r) {
        if (r.strokes > 0) {
            asked.publish({r.strokes - 1});
        }
        seen.push_back(r.strokes);
    });
    wires.load_text("nested.toml",
                    "[[wire]]\nwhen = 'asked'\ndo = { action = 'ring', parameters = { strokes = '{strokes}' } }\n");
    asked.publish({3});
    CHECK(seen == std::vector<int>{0, 1, 2, 3});
}

TEST_CASE("what an action throws reaches the publisher, and the others are done") {
    harbour h;
    h.wires.action(h.in, "throw", [] { throw std::runtime_error("squall"); });
    REQUIRE(h.load("[[wire]]\nwhen = 'hoist.raised'\ndo = ['throw', 'horn.sound']\n") == "");
    CHECK_THROWS_WITH(h.raised.publish({}), "squall");
    CHECK(h.said() == "horn");
    CHECK(h.wires.wires()[0].last_failure == "'throw': it threw an exception");
}

TEST_CASE("a hub's channels are causes") {
    courier::hub reef("reef");
    courier::subscriber in("in");
    courier::wiring wires("hub");
    int rung = 0;
    auto& ring = reef.channel<Ring>();
    wires.offer(reef);
    auto& steered = reef.channel<Steered>(); // which comes later, and has addresses
    wires.action(in, "count", [&] { ++rung; });
    wires.load_text("hub.toml", "[[wire]]\nwhen = '" + std::string(ring.name()) + "'\nif.strokes = 2\ndo = 'count'\n");
    ring.publish({2});
    ring.publish({3});
    CHECK(rung == 1);
    wires.action<Ring>(in, "ring", bell::south, [&](const Ring& r) { rung += r.strokes; });
    const courier::named_target south = wires.target("south bell", bell::south);
    wires.load_text("hub.toml",
                    "[[wire]]\nname = 'to it'\nwhen = '" + std::string(steered.name()) +
                        "'\ndo = { action = 'ring', at = '{at}', parameters = { strokes = '{course}' } }\n");
    steered.publish_to(bell::south, {10});
    steered.publish_to(bell::north, {20});
    CHECK(rung == 11);
    CHECK(wires.try_once("to it", "course = 3").held);
    courier::state<int>& tide = reef.state<int>("tide.level", 3); // its changes and its value
    wires.load_text("hub.toml", "[[wire]]\nwhen = 'tide.level'\nif = { after = 4 }\ndo = 'count'\n[[wire]]\nwhen = '" +
                                    std::string(ring.name()) + "'\nwhile = { 'tide.level' = 4 }\ndo = 'count'\n");
    ring.publish({1});
    tide.set(4);
    ring.publish({1});
    CHECK(rung == 13);
}

TEST_CASE("the audit finds objects that never came, with the nearest name, and wires that always fail") {
    harbour h;
    const courier::named_target south = h.wires.target("south bell", bell::south);
    REQUIRE(h.load(R"(
[[wire]]
name = "misspelt"
when = "hoist.raised"
do = { action = "bell.ring", at = "sout bell", parameters = { strokes = 1 } }
[[wire]]
name = "right"
when = "hoist.raised"
do = { action = "bell.ring", at = "south bell", parameters = { strokes = 1 } }
[[wire]]
name = "fails but once"
when = "hoist.raised"
if.shown = "whale"
do = "horn.sound"
else = { action = "hoist.judge", parameters = { shown = "{shown}" } }
)") == "");
    CHECK(courier::audit(h.wires).count(courier::finding_code::never_came) == 1);
    h.raised.publish({});
    h.raised.publish({flag::whale});
    const courier::wire_report last = h.wires.wires().back();
    CHECK(last.caused == 1);
    CHECK(last.otherwise == 1);
    CHECK(last.failures == 1);
    const courier::audit_report report = courier::audit(h.wires);
    REQUIRE(report.findings.size() == 2);
    CHECK(report.findings[0].what == "no object was ever called 'sout bell', and 1 wire names it");
    CHECK(report.findings[0].where == "harbour.toml:2");
    CHECK(report.findings[0].advice == "did you mean 'south bell'?");
    CHECK(report.findings[1].code == courier::finding_code::always_fails);
    CHECK(report.findings[1].what == "'misspelt' failed each of 2 times: 'bell.ring': 'sout bell' is not there");
    CHECK(test::contains(report.text(), "courier.audit.never-came"));
    const courier::named_target late = h.wires.target("sout bell", bell::north);
    CHECK(courier::audit(h.wires).count(courier::finding_code::never_came) == 0);
}
