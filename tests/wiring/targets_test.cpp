// Wires for one object among many, by its name or as the event says.
#include "support.hpp"

#include <courier/wiring/catalogue_file.hpp>
#include <courier/wiring/wiring_edit.hpp>

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

TEST_CASE("actions of several objects: lists, all of a kind, groups and the rest of a group") {
    harbour h;
    auto watch_bells = std::make_unique<courier::group<bell>>("watch bells");
    courier::group<lamp> lamps("lamps");
    h.wires.offer(*watch_bells);
    h.wires.offer(lamps);
    const courier::named_target north = h.wires.target("north bell", bell::north);
    const courier::named_target south = h.wires.target("south bell", bell::south);
    courier::membership<bell> first = watch_bells->join(bell::south);
    const auto second = watch_bells->join(bell::north);
    const auto ring = [](const std::string& at, const std::string& more = "") {
        return "[[wire]]\nwhen = 'bells.hailed'\n" + more + "do = { action = 'bell.ring', at = " + at +
               ", parameters = { strokes = '{order}' }, failed = { action = 'board.write', parameters = { text = "
               "'{why}' } } }\n";
    };
    const auto said = [&](const std::string& text, bell which = bell::north) {
        const std::string faults = h.load(text);
        if (!faults.empty()) {
            return faults.substr(0, faults.find(" [courier"));
        }
        h.hailed.publish_to(which, {3});
        return h.said();
    };
    const std::string in_group = "at = { group = 'watch bells' }\n";
    const std::string later = "after = '1 s'\n";
    struct row {
        std::string at;
        std::string more;
        std::string does;
    };
    const row rows[] = {
        {"['south bell', '{at}']", "", "south 3 | north 3"},
        {"{ all = 'bell' }", "", "north 3 | south 3"},
        {"{ group = 'watch bells' }", "", "south 3 | north 3"},
        {"{ group = 'watch bells', except = '{at}' }", "", "south 3"},
        {"{ group = 'watch bells', except = 'south bell' }", in_group, "north 3"},
        {"{ group = 'watch bells', except = 'no bell' }", "", "south 3 | north 3"},
        {"'{at}'", in_group, "north 3"},
        {"{ group = 'lamps' }", "", "harbour.toml:3:35: 'lamps' is a group of lamps, but 'bell.ring' is for a bell"},
        {"{ group = 'watch bell' }", "", "harbour.toml:3:45: there is no group 'watch bell'"},
        {"{ all = 'lamp' }", "", "harbour.toml:3:35: 'bell.ring' is for a bell, and not for a 'lamp'"},
        {"{ all = 'bell', except = '{at}' }", "", "harbour.toml:3:60: 'except' goes with a group, and not with 'all'"},
        {"{ all = 'bell', group = 'lamps' }", "", "harbour.toml:3:35: this needs one of 'group' and 'all'"},
        {"[]", "", "harbour.toml:3:35: no object is named"},
        {"[3]", "", "harbour.toml:3:36: 'at' must be a text, but this is a whole number"},
        {"'{at}'", "at = { all = 'bell' }\n", "harbour.toml:3:8: 'at' has no 'all'"},
        {"'{at}'", "at = { group = 'lamps' }\n",
         "harbour.toml:3:6: 'lamps' is a group of lamps, but 'bells.hailed' is for a bell"},
    };
    for (const row& one : rows) {
        CAPTURE(one.at);
        CAPTURE(one.more);
        CHECK(said(ring(one.at, one.more)) == one.does);
        if (one.does.find(".toml") == std::string::npos) { // the same, later
            CHECK(said(ring(one.at, one.more + later)) == "");
            h.pass(1s);
            CHECK(h.said() == one.does);
        }
    }
    CHECK(said(ring("{ group = 'watch bells', except = '{at}' }", in_group)) == "south 3");
    CHECK(h.wires.wires()[0].target == "group watch bells");
    first.end();
    h.hailed.publish_to(bell::south, {1}); // it has left
    CHECK(h.said() == "");
    h.hailed.publish_to(bell::north, {1});
    CHECK(h.said() == "the group 'watch bells' has no member for it");
    h.hailed.publish({1}); // to all
    CHECK(h.said() == "north 1");
    watch_bells.reset();
    h.hailed.publish({1});
    CHECK(h.said() == "the group 'watch bells' is not there");
    courier::group<bell> anew("watch bells");
    const auto again = anew.join(bell::south);
    h.wires.offer(anew);
    h.hailed.publish_to(bell::south, {2});
    CHECK(h.said() == "the group 'watch bells' has no member for it");
    h.hailed.publish({2});
    CHECK(h.said() == "south 2");
    const courier::catalogue all = h.wires.catalogue();
    CHECK(all.groups.size() == 2);
    CHECK(courier::catalogue_of(courier::to_asyncapi(all)).groups == all.groups);
}
