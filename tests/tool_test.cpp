// The tool, as a process.
#include "tool_support.hpp"

#include <courier/data/json.hpp>
#include <courier/fault.hpp>
#include <courier/ferry/ferry_fault.hpp>
#include <courier/finding_code.hpp>
#include <courier/gateway/gateway_fault.hpp>
#include <courier/recording/recording_fault.hpp>
#include <courier/wiring/catalogue_fault.hpp>
#include <courier/wiring/console.hpp>
#include <courier/wiring/wiring_fault.hpp>

#include <doctest/doctest.h>

#include <set>
#include <sstream>
#include <string>
#include <type_traits>

TEST_CASE("courier demo prints the same night for the same seed") {
    const run_result one = courier_tool("demo --seed 7");
    const run_result two = courier_tool("demo --seed 7");
    const run_result other = courier_tool("demo --seed 8");
    CHECK(one.code == 0);
    CHECK(one.err.empty());
    CHECK(one.out == two.out);
    CHECK(one.out != other.out);
    CHECK(other.code == 0);
    // As 'scripts/demo' runs it, without recording, gateway and ferry.
    CHECK(test::run_program(COURIER_NIGHT, "demo --seed 7").out == one.out);
    CHECK(test::run_program(COURIER_NIGHT, "demo --record night.jsonl").code == 2);
    // All crates that set out come in or are lost, however long the night.
    CHECK(test::contains(courier_tool("demo --quiet --frames 9000").out, "4 moored, 0 crates in, 160 lost\n"));
}

TEST_CASE("courier demo shows who reacted to what") {
    const std::string night = courier_tool("demo --seed 7").out;
    // No payload, one value, five named fields.
    CHECK(test::contains(night, "    horn sounds long\n"));
    CHECK(test::contains(night, "  watch publishes watch.storm_broke  -> 4 served\n"));
    CHECK(test::contains(night, "weather: weather.flashed {distance "));
    CHECK(test::contains(night, ", berth 1, crates "));
    // Disabled and enabled again; a second of its kind; one removed.
    const auto out = night.find("(the lamp goes out)");
    const auto lit = night.find("(the lamp is lit again)");
    REQUIRE(out != std::string::npos);
    REQUIRE(lit != std::string::npos);
    const std::string dark = night.substr(out, lit - out);
    CHECK(test::contains(dark, "publishes wyrms.sighted"));
    CHECK_FALSE(test::contains(dark, "lamp sweeps"));
    CHECK(test::contains(night.substr(0, out), "lamp sweeps"));
    CHECK(test::contains(night.substr(lit), "\n    lamp sweeps to "));
    CHECK(test::contains(night, "north bell rings the night out"));
    const auto gone = night.find("(the horn is carried off by a wave)");
    REQUIRE(gone != std::string::npos);
    CHECK(test::contains(night.substr(0, gone), "horn sounds short"));
    CHECK_FALSE(test::contains(night.substr(gone), "horn sounds"));
    CHECK(test::contains(night.substr(gone), "south bell rings"));
    // Stopped by a verdict, and never heard.
    CHECK(test::contains(night, "-> 1 served, stopped by tides\n    tides forbid it"));
    CHECK(test::contains(night, "channels that nobody heard: none\n"));
    CHECK(test::contains(night, "listeners that heard nothing: none\n"));
    CHECK(test::contains(courier_tool("demo --frames 3").out,
                         "listeners that heard nothing: barges, lamp, north bell, orders, south bell\n"));
}

TEST_CASE("courier demo shows who was addressed and who was not, who answered and who was waited for") {
    const std::string night = courier_tool("demo --seed 7").out;
    for (const char* text :
         {// one address, a group, and nobody
          "harbour publishes harbour.hails to barge 2 {order show a light}  -> 1 served\n"
          "      barge 2 answers: show a light, aye\n    (not addressed: barge 1, 3, 4)\n",
          "harbour publishes harbour.hails to convoy of 4 {order reef your sails}  -> 4 served\n      barge 1 answers",
          "harbour publishes harbour.hails to barge 9 {order show a light}  -> nobody there\n",
          // objects that say what becomes of them
          "register notes: barge 3 is launched\n", "register notes: barge 3 casts off\n",
          "register notes: barge 3 is made fast\n",
          // a period, and a tally that does not wait for who is gone
          "mate publishes crew.ordered {what coil down the lines}  -> nobody served\n  (no storm watch",
          "mate publishes crew.ordered {what stand to}  -> 5 served\n", "(hand 4 goes overboard)\n",
          "mate counts 3 of 4: enough for the boats\n", "mate counts 4: all hands stand to\n",
          // two channels relayed into one
          "watch board notes: lightning at 7 cables\n", "watch board notes: wyrm at 2 cables\n",
          // one question, three who answer in turn
          "tides ask again: 1 fathom over the bar, says the harbour office\n", "says the copy on disk\n",
          "tides forbid it: 2 fathoms over the bar, says the shipped table\n"}) {
        CAPTURE(text);
        CHECK(test::contains(night, text));
    }
}

TEST_CASE("courier demo shows what comes later, together, or from another thread") {
    const std::string night = courier_tool("demo --seed 12").out;
    const auto flash = night.find("weather: weather.flashed {distance ");
    REQUIRE(flash != std::string::npos);
    const std::string distance = night.substr(flash + 18, night.find('}', flash) - flash - 18);
    const auto thunder = night.find("weather: weather.thundered " + distance.substr(distance.find('{')), flash);
    CHECK(thunder != std::string::npos);
    CHECK(night.find("\nframe", flash) < thunder); // frames later
    CHECK(test::contains(night, "wyrms posts barges.bitten {barge "));
    CHECK(test::contains(night, "barges take 2 bites at once\n"));
    // Two bites in that frame, one change of the board.
    const auto at_once = night.find("bites at once");
    const std::string after =
        night.substr(at_once, night.find("\nframe", night.find("\nframe", at_once) + 1) - at_once);
    const auto shows = after.find("watch board shows");
    CHECK(shows != std::string::npos);
    CHECK(after.find("watch board shows", shows + 1) == std::string::npos);
}

TEST_CASE("courier demo shows values, pipelines and sequences") {
    const std::string night = courier_tool("demo --seed 7").out;
    std::size_t at = 0;
    for (const char* text :
         {// the watch as a sequence, with time limits and fallbacks
          "keeper opens the watch: barge 4 is under way\n", "keeper publishes keeper.table_asked  -> 1 served\n",
          "office publishes office.table_sent", "keeper steers by the office's table\n",
          "keeper sees gulls settle: fair for now\n",
          // readiness, which counts in the storm watch only
          "slate says: 0 of 5 stand to\n", "slate says: 4 of 4 stand to\n", "keeper hears nothing from the office\n",
          "keeper finds last month's table on disk: no use\n", "keeper steers by the shipped table\n",
          "keeper closes the watch\n", "slate says: all hands below\n"}) {
        CAPTURE(text);
        at = night.find(text, at);
        REQUIRE(at != std::string::npos);
    }
    // A barge that takes water shows that, and afterwards what it shows else.
    at = night.find("hoists: taking water");
    REQUIRE(at != std::string::npos);
    const std::string barge = night.substr(at - 8, 8);
    CHECK(night.find(barge + "hoists: under sail", at) < night.find(barge + "hoists: made fast", at));
}

TEST_CASE("courier demo --quiet prints the summary only, and --frames sets the length") {
    const run_result quiet = courier_tool("demo --seed 3 --quiet");
    CHECK(quiet.code == 0);
    CHECK(quiet.out.rfind("night over: seed 3, 120 frames\n", 0) == 0);
    CHECK(test::contains(courier_tool("demo --seed 3").out, "\n" + quiet.out));
    for (const char* frames : {"1", "2", "5", "1000"}) {
        CAPTURE(frames);
        const run_result r = courier_tool(std::string{"demo --quiet --frames "} + frames);
        CHECK(r.code == 0);
        CHECK(test::contains(r.out, std::string{"night over: seed 1, "} + frames + " frames"));
    }
}

TEST_CASE("bad use is told in one line, with exit code 2") {
    check_bad_use(
        "demo --frames -3",
        "courier: --frames: '-3' is not a whole number from 1 to 100000; see 'courier --help' [courier.tool.usage]");
    check_bad_use(
        "demo --frames 0",
        "courier: --frames: '0' is not a whole number from 1 to 100000; see 'courier --help' [courier.tool.usage]");
    check_bad_use(
        "demo --frames 3.5",
        "courier: --frames: '3.5' is not a whole number from 1 to 100000; see 'courier --help' [courier.tool.usage]");
    check_bad_use("demo --seed x",
                  "courier: --seed: 'x' is not a whole number from 0 on; see 'courier --help' [courier.tool.usage]");
    check_bad_use("demo --seed -1",
                  "courier: --seed: '-1' is not a whole number from 0 on; see 'courier --help' [courier.tool.usage]");
    check_bad_use("dmeo", "courier: 'dmeo' is not a command; did you mean 'demo'? [courier.tool.usage]");
    check_bad_use("demo --sed 3",
                  "courier: '--sed' is not an option of 'courier demo'; did you mean '--seed'? [courier.tool.usage]");
    check_bad_use("",
                  "courier: no command is given; there are demo, explain, audit, map, lanes, systems, phases, stats, "
                  "replay, compare, watch, serve, report, trace, check, catalogue, stub, changes, codes, new; see "
                  "'courier --help' [courier.tool.usage]");
    check_bad_use("new .",
                  "courier: '.' cannot be the name of a game; use letters, digits and '_', a letter first: courier "
                  "new reef_game [courier.tool.usage]");
    check_bad_use("new /usr", "courier: '/usr' is not an empty folder; nothing was written; name a folder that is new "
                              "[courier.tool.usage]");
    check_bad_use("audit x --budget 3", "courier: --budget: '3' is not a time from 1us to 1000s; see 'courier --help' "
                                        "[courier.tool.usage]");
}

TEST_CASE("courier codes explains every code there is, and no other") {
    std::set<std::string> ids{"courier.tool.usage", "courier.tool.system"};
    const auto add = [&]<class... Code>(std::type_identity<Code>...) {
        for (const auto& values : {courier::shape_of<Code>().values...}) {
            ids.insert(values.begin(), values.end());
        }
    };
    for (std::size_t i = 0; i < courier::fault_codes; ++i) {
        ids.emplace(id_of(static_cast<courier::fault_code>(i)));
    }
    add(std::type_identity<courier::finding_code>{}, std::type_identity<courier::json_code>{},
        std::type_identity<courier::recording_code>{}, std::type_identity<courier::wiring_code>{},
        std::type_identity<courier::catalogue_code>{}, std::type_identity<courier::gateway_code>{},
        std::type_identity<courier::ferry_code>{}, std::type_identity<courier::console_code>{});
    std::set<std::string> told;
    std::istringstream lines(courier_tool("codes").out);
    for (std::string line; std::getline(lines, line);) {
        told.insert(line.substr(0, line.find(' ')));
    }
    CHECK(told == ids);
    CHECK(test::contains(courier_tool("codes wiring.never-holds").out, "\n  cure     Choose bounds"));
    check_bad_use("codes wiring.never-hold", "courier: 'wiring.never-hold' is not a code; did you mean "
                                             "'courier.wiring.never-holds'? [courier.tool.usage]");
}

TEST_CASE("help and version") {
    const run_result help = courier_tool("--help");
    CHECK(help.code == 0);
    CHECK(test::contains(help.out, "demo"));
    CHECK(test::contains(help.out, "Exit codes: 0 fine, 1 findings or differences, 2 bad use or a broken file."));
    CHECK(courier_tool("--version").out == "courier 0.1.0\n");
    const run_result demo_help = courier_tool("demo --help");
    CHECK(demo_help.code == 0);
    CHECK(test::contains(demo_help.out, "--seed"));
}

TEST_CASE("colours appear on a terminal only, and not with NO_COLOR") {
    CHECK_FALSE(test::contains(courier_tool("demo").out, "\x1b["));
    const auto on_terminal = [](const std::string& environment) {
        const std::string command = environment + " script -qec '" + COURIER_TOOL + " demo --quiet' /dev/null";
        std::FILE* pipe = popen(command.c_str(), "r");
        REQUIRE(pipe != nullptr);
        std::string text = test::read_all(pipe);
        CHECK(pclose(pipe) == 0);
        CHECK(test::contains(text, "night over"));
        return text;
    };
    CHECK(test::contains(on_terminal(""), "\x1b["));
    CHECK_FALSE(test::contains(on_terminal("NO_COLOR=1"), "\x1b["));
}

TEST_CASE("a full disk or closed pipe is an error, not silence") {
    const run_result r = courier_tool("demo >/dev/full");
    CHECK(r.code == 2);
    CHECK(r.err == "courier: cannot write to standard output: No space left on device\n");
}
