// Payloads published and actions called by their names, as text.
#include "support.hpp"

#include <courier/wiring/console.hpp>

using namespace wired;

namespace {

/// The fault, its misfits, and what has been done.
std::string told(const courier::console_answer& got, harbour& h) {
    std::string all = got ? "done" : got.fault->text();
    for (const courier::json_fault& one : got.misfits) {
        all += " | " + one.text();
    }
    if (!got.answer.empty()) {
        all += " = " + got.answer;
    }
    const std::string said = h.said();
    return said.empty() ? all : all + " > " + said;
}

} // namespace

TEST_CASE("console: publishes and calls by name what fits as a whole, and says why it did nothing") {
    harbour h;
    courier::subscriber in{"keeper"};
    courier::hub match{"match"};
    in.subscribe(h.raised, [&](const Judged& j) {
        if (j.shown == flag::anchor) {
            throw std::runtime_error("the halyard is fast");
        }
        h.done("raised");
    });
    in.subscribe(h.hailed.at(bell::south), [&](const Hailed& e) { h.done("order " + std::to_string(e.order)); });
    in.subscribe(match.channel<Line>(), [&](const Line& l) { h.done(l.text); });
    const courier::named_target north = h.wires.target("north bell", bell::north);
    const courier::named_target lamp = h.wires.target("big lamp", lamp::big);

    courier::console typed;
    typed.accept(h.raised);
    typed.accept(h.hailed);
    typed.accept(match);
    typed.accept(h.tide);
    typed.accept(h.wires);
    const std::string named(match.channel<Named>().name()); // made later
    const std::string line(match.channel<Line>().name());

    const struct {
        std::string name, fields, at, told;
    } payloads[] = {
        {"hoist.raised", R"({"shown":"gull"})", "", "done > raised"},
        {"hoist.raised", R"({"shown":"anchor"})", "", "hoist.raised: the halyard is fast [courier.console.failed]"},
        {"hoist.raised", R"({"shown":"cow"})", "",
         "hoist.raised: the payload does not fit 'hoist.raised'; nothing was published [courier.console.does-not-fit] "
         "| "
         "/shown: must be one of none, whale, gull, anchor, but is 'cow' [courier.data.unknown-value]"},
        {"hoist.raised", "gull", "",
         "hoist.raised: the payload does not fit 'hoist.raised'; nothing was published [courier.console.does-not-fit] "
         "| "
         "the text is not JSON (RFC 8259), or nests more than 64 deep [courier.data.not-json]"},
        {"hoist.raised", "{}", "north",
         "hoist.raised: 'hoist.raised' has no addresses; leave \"at\" out [courier.console.does-not-fit]"},
        {"hoist.rised", "{}", "",
         "hoist.rised: no payloads are accepted for 'hoist.rised'; did you mean 'hoist.raised'? "
         "[courier.console.unknown-name]"},
        {"bells.hailed", R"({"order":3})", "south", "done > order 3"},
        {"bells.hailed", R"({"order":3})", "",
         "bells.hailed: a payload on 'bells.hailed' is for one address; say which by \"at\" "
         "[courier.console.does-not-fit]"},
        {"bells.hailed", R"({"order":3})", "east",
         "bells.hailed: 'east' is none of the addresses of 'bells.hailed' [courier.console.does-not-fit]"},
        {line, R"({"text":"all is well"})", "", "done > all is well"},
    };
    for (const auto& one : payloads) {
        CAPTURE(one.name + one.fields + one.at);
        CHECK(told(typed.publish(one.name, one.fields, one.at), h) == one.told);
    }
    CHECK(typed.publish("hoist.raised", R"({"shown":"gull"})").served.served() == 1);
    CHECK(typed.publishes(named));
    CHECK_FALSE(typed.publishes("wyrms.sighted")); // shown to nobody
    h.log.clear();

    const struct {
        std::string name, parameters, object, told;
    } calls[] = {
        {"horn.sound", " ", "", "done > horn"},
        {"bell.ring", R"({"strokes":2})", "north bell", "done > north 2"},
        {"bell.ring", R"({"strokes":2})", "",
         "bell.ring: the call does not fit 'bell.ring'; nothing was done [courier.console.does-not-fit] | "
         "/at: is missing: the action is for one object among many; name the object [courier.data.missing-field]"},
        {"bell.ring", R"({"strokes":2})", "big lamp",
         "bell.ring: there is no 'big lamp' of the kind that 'bell.ring' is for, or not now "
         "[courier.console.no-object]"},
        {"bell.ring", R"({"stroke":2})", "north bell",
         "bell.ring: the call does not fit 'bell.ring'; nothing was done [courier.console.does-not-fit] | "
         "/parameters/stroke: is not a field of wired::Ring; did you mean 'strokes'? [courier.data.unknown-field] | "
         "/parameters/strokes: is missing; it must be a whole number [courier.data.missing-field]"},
        {"hoist.judge", R"({"shown":"whale"})", "", "done = 7"},
        {"hoist.judge", R"({"shown":"gull"})", "", "hoist.judge: the wrong flag [courier.console.failed]"},
        {"horn.sounds", "{}", "",
         "horn.sounds: there is no action 'horn.sounds'; did you mean 'horn.sound'? [courier.console.unknown-name]"},
        {"set tide.level", R"({"value":9})", "", "done"},
    };
    for (const auto& one : calls) {
        CAPTURE(one.name + one.parameters + one.object);
        CHECK(told(typed.call(one.name, one.parameters, one.object), h) == one.told);
    }
    CHECK(h.tide.glance() == 9);

    courier::catalogue has;
    typed.list(has);
    CHECK(has.action("bell.ring") != nullptr);
    CHECK(has.action("bells.hailed") != nullptr);
    CHECK(has.action("wyrms.sighted") == nullptr);
}

TEST_CASE("console: names stay when what they are for has ended, and a handler may end the console") {
    courier::subscriber in{"keeper"};
    auto typed = std::make_unique<courier::console>("cheats");
    {
        courier::channel<Judged> raised{"hoist.raised"};
        courier::wiring wires{"harbour"};
        wires.action(in, "horn.sound", [] {});
        typed->accept(raised);
        typed->accept(wires, "horn.sound");
        CHECK(typed->calls("horn.sound"));
    }
    CHECK(typed->publish("hoist.raised", R"({"shown":"gull"})").served.closed());
    CHECK_FALSE(typed->calls("horn.sound"));

    courier::channel<Line> said{"board.said"};
    courier::ledger night{"night"};
    night.attach(said);
    in.subscribe(said, [&] { typed.reset(); });
    typed->accept(said);
    CHECK(typed->publish("board.said", R"({"text":"no more"})").served.served() == 1);
    CHECK(typed == nullptr);
}
