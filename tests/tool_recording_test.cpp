// The commands that read recordings, on recorded nights.
#include "tool_support.hpp"

#include <careless.hpp>

#include <nlohmann/json.hpp>

#include <algorithm>
#include <cstdlib>
#include <filesystem>
#include <fstream>
#include <iterator>
#include <set>
#include <string>
#include <tuple>
#include <vector>

using nlohmann::json;
using test::contains;

namespace {

std::string scratch(const std::string& name) {
    return std::string{TEST_SCRATCH} + "/tool_" + name;
}

/// A recorded night, made once.
std::string night(const std::string& name, const std::string& options) {
    static std::set<std::string> made;
    const std::string file = scratch(name + ".jsonl");
    if (made.insert(name).second) {
        const run_result r = courier_tool("demo --quiet --record " + file + " " + options);
        REQUIRE(r.code == 0);
        REQUIRE((r.err.empty() || test::contains(options, "--careless"))); // checked builds tell faults
    }
    return file;
}
std::string plain_night() {
    return night("night", "--seed 7");
}
std::string careless_night() {
    return night("careless", "--seed 7 --careless");
}

json printed(const run_result& r) {
    return json::parse(r.out);
}

} // namespace

TEST_CASE("courier audit finds every planted mistake by name, and nothing else") {
    std::set<std::tuple<std::string, std::string, std::string>> planted;
    for (const reef::planted_mistake& m : reef::careless::mistakes()) {
        planted.emplace(m.code, m.channel, m.party);
    }
    const run_result r = courier_tool("audit --budget 10ms --json " + careless_night());
    CHECK(r.code == 1);
    std::set<std::tuple<std::string, std::string, std::string>> found;
    const json told = printed(r);
    for (const json& f : told.at("findings")) {
        found.emplace(f.at("code"), f.at("channel"), f.at("party"));
        CHECK(contains(f.at("where"), "demo/careless.cpp:"));
        CHECK_FALSE(f.at("advice").get<std::string>().empty());
    }
    CHECK(found == planted);
    const run_result text = courier_tool("audit " + careless_night());
    CHECK(text.code == 1);
    CHECK(contains(text.out, "courier.audit.outlived\n  'diver' is still there, and all it listened to is gone"));
    CHECK(contains(text.out, "findings in "));
    const json about_one = printed(courier_tool("audit --budget 10ms --json --who diver " + careless_night()));
    REQUIRE(about_one.at("findings").size() == 1);
    CHECK(about_one.at("findings")[0].at("code") == "courier.audit.outlived");
    CHECK(courier_tool("audit --channel weather.flashed " + careless_night()).code == 0);

    // Accepted ones are told apart, and what is accepted and is not there is a finding.
    const std::string file =
        test::written("accepted.json", R"([{"code":"every-frame","reason":"it shines"},)"
                                       R"({"code":"growing","channel":"careless.lamp","reason":"no"}])");
    const std::string asked = "audit --budget 10ms --accepted " + file + " ";
    const json some = printed(courier_tool(asked + "--json " + careless_night()));
    CHECK(some.at("findings").size() == planted.size());
    REQUIRE(some.at("accepted").size() == 1);
    CHECK(some.at("accepted")[0].at("reason") == "it shines");
    CHECK(contains(courier_tool(asked + careless_night()).out, ", and 1 accepted in "));
    test::written("accepted.json", R"([{"code":"every-day","reason":"it shines"}])");
    CHECK(contains(courier_tool(asked + careless_night()).err, "there is no finding 'every-day'; there are growing, "));
    test::written("accepted.json", R"([{"code":"growing","raison":"it shines"}])");
    CHECK(contains(courier_tool(asked + careless_night()).err, "/0/raison: is not a field of tool::accepted_line"));
}

TEST_CASE("courier audit has nothing to say of a clean night, whatever the seed") {
    for (const char* options : {"--seed 1", "--seed 2", "--seed 3 --frames 400", "--seed 11"}) {
        CAPTURE(options);
        const std::string file = scratch("clean.jsonl");
        courier_tool(std::string{"demo --quiet --record "} + file + " " + options);
        const run_result r = courier_tool("audit --budget 10ms " + file);
        CHECK(r.code == 0);
        CHECK(r.err.empty());
        CHECK(contains(r.out, ": no findings in "));
    }
}

TEST_CASE("courier explain tells why the horn sounded, down from the first cause") {
    const run_result r = courier_tool("explain " + plain_night() + " horn");
    CHECK(r.code == 0);
    CHECK(contains(r.out, "horn last heard event "));
    CHECK(contains(r.out, " posts weather.flashed {\"distance\":9}, from outside\n"));
    CHECK(contains(r.out, "in the handler of weather from demo/weather.cpp:"));
    CHECK(contains(r.out, " weather publishes weather.thundered {\"distance\":9}\n"));
    CHECK(contains(r.out, " horn and thunder publishes horn.answer {\"whom\":\"the thunder\"}\n"));
    CHECK(contains(r.out, "in the handler of horn and thunder from demo/reef.toml:"));
    CHECK(contains(r.out, "-> heard by horn\n"));
    const json chain = printed(courier_tool("explain --json " + plain_night() + " weather.thundered --frames :81"));
    REQUIRE(chain.size() == 4);
    CHECK(chain[0].at("kind") == "post");
    CHECK(chain[3].at("cause") == chain[2].at("event"));
    CHECK(chain[3].at("channel") == "weather.thundered");
    const std::string id = std::to_string(chain[1].at("event").get<int>());
    CHECK(contains(courier_tool("explain " + plain_night() + " " + id).out, "event " + id + " (frame 71), "));
}

TEST_CASE("courier explain --why-not tells why a reaction did not come") {
    const run_result gone = courier_tool("explain " + plain_night() + " --why-not horn --channel horn.answer");
    CHECK(gone.code == 1);
    CHECK(contains(gone.out, "  5 published, 3 heard by horn (first event "));
    CHECK(contains(gone.out, "  2 no longer subscribed: it left in frame 84\n    demo/sound.cpp:"));
    const run_result paused =
        courier_tool("explain --json " + careless_night() + " --why-not 'deaf bell' --channel wyrms.sighted");
    CHECK(printed(paused)[0].at("reasons")[0].at("why") == "paused");
    const run_result none =
        courier_tool("explain " + plain_night() + " --why-not horn --channel barges.bitten --frames 0:5");
    CHECK(contains(none.out, "  nobody published on it then; next in frame "));
    CHECK(courier_tool("explain " + plain_night() + " --why-not horn --channel horn.answer --frames :80").code == 0);
    const run_result everywhere = courier_tool("explain " + plain_night() + " --why-not horn");
    CHECK(everywhere.code == 1);
    CHECK(contains(everywhere.out, "horn and horn.sound, frames 0 to the end\n  5 published, 4 heard by horn"));
    CHECK(contains(everywhere.out, gone.out));
    // To where it broke: the bell rings when 'north bell for wyrms' hears of wyrms.
    const run_result path =
        courier_tool("explain " + plain_night() + " --why-not 'north bell' --channel bell.ring --frames 0:5");
    CHECK(contains(path.out, "  north bell for wyrms publishes bell.ring when it hears wyrms.sighted\n"));
}

TEST_CASE("courier map shows who publishes and who hears, as text, DOT and SVG") {
    const std::string text = courier_tool("map " + plain_night()).out;
    CHECK(contains(text, "wyrms.sighted  reef::WyrmSighted\n  from wyrms "));
    CHECK(contains(text, "harbour.hails  reef::Hailed, in hub reef\n"));
    CHECK_FALSE(contains(text, "checked"));
    const run_result dot = courier_tool("map --dot - --channel wyrms.sighted " + plain_night());
    CHECK(dot.out.starts_with("digraph routes {"));
    CHECK(contains(dot.out, "\"p:wyrms\" -> \"c:wyrms.sighted\""));
    CHECK_FALSE(contains(dot.out, "barges.moved"));
    const std::string svg = scratch("map.svg");
    const run_result drawn = courier_tool("map --svg " + svg + " " + plain_night());
    CHECK(drawn.code == 0);
    std::ifstream in(svg);
    CHECK(contains(std::string(std::istreambuf_iterator<char>(in), {}), "<svg"));
    CHECK(printed(courier_tool("map --json " + plain_night())).size() > 20);
}

TEST_CASE("courier lanes draws a stretch of frames, as text, for mscgen, and as SVG") {
    const std::string text = courier_tool("lanes " + plain_night() + " --frames 71 --channel weather.flashed").out;
    CHECK(contains(text, "frame 71\n"));
    CHECK(contains(text, "weather.flashed"));
    CHECK(contains(text, "●"));
    CHECK(contains(text, "▶"));
    const std::string msc = courier_tool("lanes " + plain_night() + " --frames 71 --msc -").out;
    CHECK(msc.starts_with("msc {"));
    CHECK(contains(msc, "[label=\"frame 71\"]"));
    const std::string svg = scratch("lanes.svg");
    CHECK(courier_tool("lanes " + plain_night() + " --frames 71 --svg " + svg).code == 0);
    std::ifstream in(svg);
    CHECK(contains(std::string(std::istreambuf_iterator<char>(in), {}), "<svg"));
    CHECK(contains(courier_tool("lanes " + plain_night() + " --limit 5").out,
                   " more; narrow it with --frames, or raise --limit\n"));
    CHECK(printed(courier_tool("lanes --json " + plain_night() + " --frames 71:72")).at("messages").size() > 5);
}

TEST_CASE("courier stats counts by channel and frame") {
    const run_result r = courier_tool("stats " + plain_night());
    CHECK(r.code == 0);
    CHECK(contains(r.out, "  barges.moved "));
    CHECK(contains(r.out, "frames 0 to 119"));
    const json all = printed(courier_tool("stats --json " + plain_night()));
    CHECK(all.at("frames") == 120);
    std::uint64_t sum = 0;
    for (const json& c : all.at("channels")) {
        sum += c.at("published").get<std::uint64_t>();
    }
    CHECK(sum == all.at("events"));
    const json some = printed(courier_tool("stats --json --who horn --frames 40:90 " + plain_night()));
    CHECK(some.at("first_frame") == 40);
    CHECK(some.at("frames") == 51);
    CHECK(some.at("channels").size() == 2);
}

TEST_CASE("courier replay runs a recorded night again, and stops at the first difference") {
    const run_result same = courier_tool("replay " + plain_night());
    CHECK(same.code == 0);
    CHECK(contains(same.out, " events came again, the same and in the same order\n"));
    CHECK(courier_tool("replay " + careless_night()).code == 0);
    CHECK(courier_tool("replay " + night("shaken", "--seed 7 --order-seed 3")).code == 0);
    // Lightning that was not there in the recorded night has its effects.
    std::ifstream in(plain_night());
    std::string text(std::istreambuf_iterator<char>(in), {});
    const std::string flash = R"("payload":{"distance":9}}})";
    const std::size_t at = text.find(flash);
    REQUIRE(at != std::string::npos);
    text.replace(at, flash.size(), R"("payload":{"distance":8}}})");
    const std::string changed = scratch("changed.jsonl");
    std::ofstream(changed) << text;
    const run_result r = courier_tool("replay " + changed);
    CHECK(r.code == 1);
    CHECK(contains(r.out, " differs after "));
    CHECK(contains(r.out, "\n  recorded: frame 71  "));
    CHECK(contains(r.out, "\n  this run: frame 71  "));
    CHECK(contains(r.out, "\n  differs   payload: {\"distance\":9} | {\"distance\":8}"));
}

TEST_CASE("courier replay runs any game that takes part, and any game's recording can be read") {
    const std::string file = scratch("another.jsonl");
    const std::string game = REPLAYED_GAME;
    REQUIRE(std::system((game + " " + file).c_str()) == 0);
    const run_result same = courier_tool("replay " + file + " --with '" + game + "'");
    CHECK(same.code == 0);
    CHECK(contains(same.out, ": all 10 events came again, the same and in the same order\n"));
    const run_result changed = courier_tool("replay " + file + " --with '" + game + " x 11'");
    CHECK(changed.code == 1);
    CHECK(contains(changed.out, " differs after 1 events that are the same\n"));
    CHECK(contains(changed.out, "differs   payload: {\"bearing\":10} | {\"bearing\":11}"));
    const run_result deaf = courier_tool("replay " + file + " --with true");
    CHECK(deaf.code == 2);
    CHECK(contains(deaf.err, "'true' ended with exit code 0 and did not say what came of the replay"));
    CHECK(contains(courier_tool("audit " + file).out, "'lamp.turned' was published 5 times and nobody ever heard it"));
    CHECK(contains(courier_tool("map " + file).out, "LampTurned\n  from keeper 5\n"));
    CHECK(courier_tool("stats " + file).code == 0);
    CHECK(courier_tool("lanes " + file).code == 0);
    CHECK(contains(courier_tool("explain " + file + " lamp.turned").out, "in the handler of keeper from "));
}

TEST_CASE("courier compare tells what differs first, and in counts") {
    const std::string other = night("other", "--seed 8");
    const run_result r = courier_tool("compare " + plain_night() + " " + other);
    CHECK(r.code == 1);
    CHECK(contains(r.out, "  seed: 7 | 8\n"));
    CHECK(contains(r.out, "first difference:"));
    CHECK(contains(r.out, "  in all, events on "));
    const run_result same = courier_tool("compare " + plain_night() + " " + night("again", "--seed 7"));
    CHECK(same.code == 0);
    CHECK(contains(same.out, "no difference in "));
    CHECK(printed(courier_tool("compare --json " + plain_night() + " " + other)).at("equal") == false);
}

TEST_CASE("courier demo --order-seed serves in another order, and the audit says which pairs matter") {
    const std::string shaken = night("shaken_careless", "--seed 7 --careless --order-seed 2");
    CHECK(courier_tool("compare '" + shaken + "' " + careless_night()).code == 1);
    CHECK(contains(courier_tool("audit '" + shaken + "'").out, "the order of 'cook' and 'second mate' matters"));
}

TEST_CASE("what the field guide shows is what the tool says of the night that it names") {
    std::ifstream in(std::string{COURIER_DOCUMENTS} + "/field-guide.md");
    const std::string guide(std::istreambuf_iterator<char>(in), {});
    REQUIRE(contains(guide, "courier demo --seed 7 --record night.jsonl"));
    int compared = 0;
    for (std::size_t at = guide.find("```sh\ncourier "); at != std::string::npos;
         at = guide.find("```sh\ncourier ", at + 1)) {
        const std::size_t begin = at + std::string_view{"```sh\ncourier "}.size();
        std::string command = guide.substr(begin, guide.find('\n', begin) - begin);
        const std::size_t shown = guide.find("```text\n", begin);
        const std::size_t end = guide.find("```", begin);
        if (shown == std::string::npos || shown > end + 8) {
            continue; // a command alone
        }
        const std::size_t text = shown + std::string_view{"```text\n"}.size();
        command.replace(command.find("night.jsonl"), 11, plain_night());
        CAPTURE(command);
        CHECK(courier_tool(command).out == guide.substr(text, guide.find("```", text) - text));
        ++compared;
    }
    CHECK(compared == 1);
    const std::size_t numbered = guide.find("courier explain night.jsonl 2"); // an event that the horn heard
    REQUIRE(numbered != std::string::npos);
    const std::string event = guide.substr(numbered + std::string_view{"courier explain night.jsonl "}.size(), 3);
    CHECK(contains(courier_tool("explain " + plain_night() + " " + event).out, "-> heard by horn"));
}

TEST_CASE("systems and phases of a night, as text, JSON and pictures") {
    const std::string systems = courier_tool("systems " + plain_night()).out;
    CHECK(contains(systems, "reef::tides  wave 0\n  changes reef::night_log\n  reads   reef::barges, "));
    CHECK(contains(systems, "courier::hub  lent\n"));
    const auto listed = printed(courier_tool("systems --json " + plain_night()));
    REQUIRE(listed.size() > 10);
    CHECK(listed.at(0).at("name") == "reef::night_log");
    CHECK(contains(courier_tool("systems --dot - " + plain_night()).out,
                   "\"reef::wyrms\" -> \"reef::lookout\" [style=dashed]"));

    const std::string phases = courier_tool("phases " + plain_night()).out;
    CHECK(contains(phases, "watch  is dawn; 2 moves\n  dusk             may go to storm\n"));
    CHECK(contains(phases, "frame    30  dusk -> storm  demo/watch.cpp:"));
    CHECK(printed(courier_tool("phases --json " + plain_night())).at(0).at("history").size() == 2);
    CHECK(contains(courier_tool("phases --dot - " + plain_night()).out, "\"0:dusk\" -> \"0:storm\" [label=\"1\"]"));
    CHECK(contains(courier_tool("phases --help").out, "Try:  courier phases night.jsonl"));
    CHECK(contains(courier_tool("lanes --help").out, "--frames RANGE"));
    CHECK(contains(courier_tool("map --help").out, "--svg FILE"));
}

TEST_CASE("the demo's summary counts as its recording does") {
    const std::string summary = courier_tool("demo --quiet --seed 7").out;
    const auto stats = printed(courier_tool("stats --json " + plain_night()));
    for (const auto& c : stats.at("channels")) {
        if (c.at("published") != 0) {
            char line[160];
            std::snprintf(line, sizeof line, "  %-24s%10d%12d%10d%10d\n", c.at("channel").get<std::string>().c_str(),
                          c.at("published").get<int>(), c.at("deliveries").get<int>(), c.at("unheard").get<int>(),
                          c.at("stopped").get<int>());
            CAPTURE(line);
            CHECK(contains(summary, line));
        }
    }
}

TEST_CASE("courier watch follows a recording that is being written") {
    const std::string file = scratch("growing.jsonl");
    std::filesystem::remove(file);
    std::ifstream in(careless_night());
    const std::string text(std::istreambuf_iterator<char>(in), {});
    const std::size_t half = text.find('\n', text.size() / 2) + 10; // in the middle of a line
    std::ofstream out(file, std::ios::binary);
    out << text.substr(0, half) << std::flush;
    const run_result early = courier_tool("watch " + file + " --for 1s --every 50ms");
    CHECK(early.code == 0);
    CHECK(contains(early.out, "still being written"));
    std::FILE* const watching =
        popen((std::string{COURIER_TOOL} + " watch " + file + " --every 20ms --for 60s").c_str(), "r");
    out << text.substr(half) << std::flush;
    const std::string late = test::read_all(watching);
    CHECK(WEXITSTATUS(pclose(watching)) == 0);
    const run_result once = courier_tool("watch --json --who horn " + careless_night());
    const json looked = printed(once);
    CHECK(looked.at("finished") == true);
    CHECK(looked.at("channels").size() == 2);
    CHECK(looked.at("findings").size() >= 13);
    CHECK(contains(late, "frame 120, "));
    CHECK(contains(late, "finished"));
    CHECK(contains(late, "audit: 1")); // at least ten, whatever a slow machine adds
    CHECK(contains(late, " findings\n"));
}

TEST_CASE("names that are not ASCII are not cut in the middle of a character") {
    std::ifstream in(plain_night());
    std::string text{std::istreambuf_iterator<char>(in), {}};
    const auto replace = [&text](const std::string& what, const std::string& by) {
        for (std::size_t at = text.find(what); at != std::string::npos; at = text.find(what, at + by.size())) {
            text.replace(at, what.size(), by);
        }
    };
    replace("weather.flashed", "wetter.überm.östlichen.riff");
    replace("\"horn\"", "\"größeres nebelhorn überm riff\"");
    const std::string file = scratch("umlauts.jsonl");
    std::ofstream(file) << text;
    for (const char* command : {"lanes --frames 71:72 ", "watch ", "stats ", "map "}) {
        const std::string out = courier_tool(command + file).out;
        CHECK(out.size() > 100);
        CHECK_NOTHROW(static_cast<void>(json(out).dump())); // which refuses what is not UTF-8
    }
    CHECK(contains(courier_tool("lanes --frames 71:72 " + file).out, "wetter.überm.östl…"));
}
