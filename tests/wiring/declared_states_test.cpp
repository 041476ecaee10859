// States that files declare, and moves of phases.
#include "support.hpp"

#include <courier/wiring/check.hpp>
#include <courier/wiring/wiring_audit.hpp>

using namespace wired;

namespace {

const std::string counting = R"(
[state."bells rung"]
start = 0
[state.calm]
start = true
[state.mood]
start = "fair"
[state.depth]
start = 1.5
[[wire]]
when = "hoist.raised"
do = ["add to bells rung", "toggle calm"]
[[wire]]
when = "bells rung"
do = { action = "board.write", parameters = { text = "{before} to {after}, calm {calm}, {mood}, {depth}" } }
)";

} // namespace

TEST_CASE("states that files declare are set, kept by a reload, and gone with their declaration") {
    harbour h;
    REQUIRE(h.load(counting) == "");
    h.raised.publish({});
    h.raised.publish({});
    CHECK(h.said() == "0 to 1, calm yes, fair, 1.5 | 1 to 2, calm no, fair, 1.5");

    // Another start changes nothing of one that is there; a reload keeps wires and values.
    const auto changed = [&](const std::string& from, const std::string& to, std::string text = counting) {
        return text.replace(text.find(from), from.size(), to);
    };
    REQUIRE(h.load(changed("start = 0", "start = 100") + R"(
[[wire]]
when = "hoist.raised"
while = { calm = true }
do = [{ action = "set mood", parameters = { value = "grim" } }, { action = "add to depth", parameters = { amount = 0.5 } }]
)") == "");
    CHECK(h.change.kept == 2);
    h.raised.publish({});
    h.raised.publish({});
    CHECK(h.said() == "2 to 3, calm yes, fair, 1.5 | 3 to 4, calm no, fair, 1.5");

    // With another kind of value it is another state, which begins anew.
    REQUIRE(h.load(changed("start = 0", "start = 10.0")) == "");
    CHECK(h.change.kept == 0);
    h.raised.publish({});
    CHECK(h.said() == "10 to 11, calm yes, grim, 2");

    REQUIRE(h.wires.catalogue().channel("mood") != nullptr);
    CHECK(h.load("[[wire]]\nwhen = 'bells rung'\ndo = 'horn.sound'\n").find("courier.wiring.unknown-channel") !=
          std::string::npos);
    h.raised.publish({}); // what was in force is in force still
    CHECK(h.said() == "11 to 12, calm no, grim, 2");
    REQUIRE(h.load("") == "");
    CHECK(h.wires.catalogue().channel("mood") == nullptr);
    CHECK(h.wires.catalogue().action("toggle calm") == nullptr);
    REQUIRE(h.load(counting) == "");
    h.raised.publish({});
    CHECK(h.said() == "0 to 1, calm yes, fair, 1.5");
}

TEST_CASE("what is wrong with a declared state is told, and nothing changes") {
    harbour h;
    REQUIRE(h.load(counting) == "");
    CHECK(h.load("[state.x]\n").find("'start' is missing") != std::string::npos);
    h.raised.publish({});
    CHECK(h.said() == "0 to 1, calm yes, fair, 1.5");

    // Without the program; and with the catalogue of one that runs such a file already.
    harbour other;
    for (const courier::catalogue& has : {other.wires.catalogue(), h.wires.catalogue()}) {
        const courier::wiring_check found = courier::check_wiring_text("reef.toml", counting, has);
        CHECK(found.clean());
        CHECK(found.wires == 2);
    }
    // A sum that does not fit is a failed action.
    REQUIRE(
        h.load(
            "[state.x]\nstart = 9223372036854775807\n[[wire]]\nwhen = 'hoist.raised'\n"
            "do = { action = 'add to x', failed = { action = 'board.write', parameters = { text = '{why}' } } }\n") ==
        "");
    h.raised.publish({});
    CHECK(h.said() == "the sum is too large");
}

TEST_CASE("phases are moved by wires, and a move that is not allowed is a failed action") {
    harbour h;
    courier::phases<watch> part{"watch", watch::dusk, {{watch::dusk, {watch::storm}}, {watch::storm, {watch::dawn}}}};
    h.wires.offer_moving(h.in, part);
    REQUIRE(h.load(R"(
[[wire]]
when = "hoist.raised"
do = { action = "move watch", parameters = { to = "dawn" }, failed = [
    { action = "board.write", parameters = { text = "{why}" } }, { action = "move watch", parameters = { to = "storm" } }] }
)") == "");
    h.raised.publish({});
    CHECK(h.said() == "'watch' may not move from dusk to dawn");
    CHECK(part.is(watch::storm));
    h.raised.publish({});
    CHECK(h.said() == "");
    CHECK(part.is(watch::dawn));
    CHECK(h.load("[[wire]]\nwhen = 'hoist.raised'\ndo = { action = 'move watch', parameters = { to = 'noon' } }\n")
              .find("courier.wiring.unknown-value") != std::string::npos);
}
