// Wires for one object among many, by its name or as the event says.
#include "support.hpp"

#include <courier/wiring/wiring_edit.hpp>

#include <doctest/doctest.h>

#include <algorithm>
#include <chrono>
#include <optional>
#include <string>
#include <vector>

using namespace wired;
using namespace std::chrono_literals;

namespace {

struct Called {
    bell which;
    std::optional<bell> second;
    int times = 1;
};

} // namespace

TEST_CASE("targets: causes and actions of one object among many, which may come and go") {
    harbour h;
    REQUIRE(h.load(R"(
[[wire]]
name = "north answers"
when = "bells.hailed"
at = "north bell"
do = { action = "bell.ring", at = "south bell", parameters = { strokes = "{order}" } }
)") == "");
    CHECK(h.wires.missing_targets() == std::vector<std::string>{"north bell", "south bell"});
    CHECK(h.wires.wires()[0].waits_for_target);
    courier::named_target north = h.wires.target("north bell", bell::north);
    CHECK_FALSE(h.wires.wires()[0].waits_for_target);
    h.hailed.publish_to(bell::north, {3});
    CHECK(h.said() == "");
    CHECK(h.wires.wires()[0].last_failure == "'bell.ring': 'south bell' is not there");
    const courier::named_target south = h.wires.target("south bell", bell::south);
    h.hailed.publish_to(bell::south, {1});
    h.hailed.publish_to(bell::north, {2});
    CHECK(h.said() == "south 2");
    north.end();
    h.hailed.publish_to(bell::north, {2});
    CHECK(h.said() == "");
    const courier::named_target wrong = h.wires.target("north bell", lamp::big);
    h.hailed.publish_to(bell::north, {2});
    CHECK(h.said() == "");
    CHECK(h.wires.wires()[0].last_failure == "'bells.hailed': 'north bell' is a lamp, which it is not for");
}

TEST_CASE("an action at the object that the event is for, at once, later, and after another one") {
    const std::string wire = "[[wire]]\nwhen = 'bells.hailed'\n";
    const std::string ring = "action = 'bell.ring', at = '{at}', parameters = { strokes = '{order}' }";
    for (const std::string& rest :
         {"do = { " + ring + " }\n", "do = [{ action = 'horn.sound', done = { " + ring + " } }]\n",
          "after = 1\ndo = { " + ring + " }\n", "at = 'south bell'\ndo = { " + ring + " }\n"}) {
        CAPTURE(rest);
        harbour h;
        const courier::named_target south = h.wires.target("south bell", bell::south);
        REQUIRE(h.load(wire + rest) == "");
        h.hailed.publish_to(bell::south, {3});
        h.pass(std::chrono::seconds(2));
        CHECK(test::contains(h.said(), "south 3"));
        h.hailed.publish_to(bell::north, {2});
        h.pass(std::chrono::seconds(2));
        CHECK(test::contains(h.said(), "north 2") == !rest.starts_with("at"));
        h.hailed.publish({4}); // for all of them
        h.pass(std::chrono::seconds(2));
        CHECK_FALSE(test::contains(h.said(), "north 4"));
        if (rest.starts_with("do")) {
            CHECK(h.wires.wires()[0].last_failure == "'bell.ring': the event names no object");
        }
    }
    harbour h;
    courier::channel<Called> called{"bells.called"};
    h.wires.offer(called);
    const auto load = [&](const std::string& at, const std::string& more = "") {
        return h.load("[[wire]]\nwhen = 'bells.called'\n" + more + "do = { action = 'bell.ring', at = '" + at +
                      "', parameters = { strokes = 1 } }\n");
    };
    REQUIRE(load("{which}") == "");
    called.publish({.which = bell::south, .second = {}});
    CHECK(h.said() == "south 1");
    REQUIRE(load("{second}", "after = 1\n") == "");
    called.publish({.which = bell::south, .second = bell::north});
    h.pass(2s);
    CHECK(h.said() == "north 1");
    called.publish({.which = bell::south, .second = {}});
    h.pass(2s);
    CHECK(h.wires.wires()[0].last_failure == "'bell.ring': the event names no object");
    CHECK(test::contains(load("{times}"), "'{times}' is a whole number, but 'bell.ring' is for a bell"));
    CHECK(test::contains(load("{wich}"), "did you mean 'which'?"));
    CHECK(test::contains(h.load("[[wire]]\nwhen = 'hoist.raised'\ndo = { action = 'bell.ring', at = '{at}' }\n"),
                         "'hoist.raised' is not for any one object, so there is no {at}"));
    h.wires.action(h.in, "lamp.dim", lamp::big, [] {});
    CHECK(test::contains(h.load(wire + "do = { action = 'lamp.dim', at = '{at}' }\n"),
                         "'{at}' is a bell, but 'lamp.dim' is for a lamp"));
    const courier::wiring_edit edit("f.toml", "", h.wires.catalogue());
    const auto targets = [&edit](const char* cause) {
        const auto fits = edit.actions_for(cause);
        return std::find_if(fits.begin(), fits.end(), [](const auto& one) { return one.name == "bell.ring"; })->targets;
    };
    CHECK(targets("bells.hailed") == std::vector<std::string>{"{at}"});
    CHECK(targets("bells.called") == std::vector<std::string>{"{which}", "{second}"});
}
