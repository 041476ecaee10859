// The tool on wiring files and catalogues.
#include "tool_support.hpp"

#include <nlohmann/json.hpp>

#include <filesystem>
#include <fstream>
#include <iterator>
#include <string>

using nlohmann::json;
using test::contains;
using test::written;

namespace {

const std::string demo_files = std::string{COURIER_DOCUMENTS} + "/../demo/";

std::string content_of(const std::string& path) {
    std::ifstream in(path, std::ios::binary);
    return {std::istreambuf_iterator<char>(in), {}};
}

std::string replaced(std::string text, const std::string& what, const std::string& by) {
    const std::size_t at = text.find(what);
    REQUIRE(at != std::string::npos);
    return text.replace(at, what.size(), by);
}

} // namespace

TEST_CASE("courier check finds nothing in the wiring that ships, and every mistake in that of mistakes") {
    const run_result right = courier_tool("check " + demo_files + "reef.toml");
    CHECK(right.code == 0);
    CHECK(right.out ==
          "checked against the demo, Gannet Reef; name your game's catalogue with --catalogue, or put it beside the "
          "file as catalogue.json\n\n"
          "1 file, 17 wires: no faults\n");
    const run_result wrong = courier_tool("check " + demo_files + "mistakes.toml");
    CHECK(wrong.code == 1);
    CHECK(contains(wrong.out,
                   "mistakes.toml:5:8: no channel or state is called 'wyrms.sigthed' [courier.wiring.unknown-channel]\n"
                   "    when = \"wyrms.sigthed\"\n           ^\n    did you mean 'wyrms.sighted'?\n"));
    CHECK(contains(wrong.out, "'wyrm' must be a whole number from -2147483648 to 2147483647, but this is 99999999999 "
                              "[courier.wiring.out-of-range]"));
    // Of every kind, but those of which the file itself is the mistake.
    for (const char* const id :
         {"unknown-key",       "missing-key",   "wrong-type",          "out-of-range",    "unknown-channel",
          "unknown-field",     "unknown-value", "unknown-action",      "unknown-state",   "unknown-phase",
          "unknown-stage",     "unknown-set",   "unknown-target-kind", "unknown-pattern", "missing-parameter",
          "unknown-parameter", "never-holds",   "always-holds",        "leads-back",      "duplicate",
          "unused-pattern"}) {
        CAPTURE(id);
        CHECK(contains(wrong.out, std::string("[courier.wiring.") + id + "]"));
    }
    CHECK(contains(wrong.out, "this leads back to itself: 'hoist.raised' -> 'hoist.raised'"));
    CHECK(contains(wrong.out, "\n36 faults in 1 file\n"));
    const json told = json::parse(courier_tool("check --json " + demo_files + "mistakes.toml").out);
    CHECK(told.at("clean") == false);
    CHECK(told.at("faults").size() == 36);
    CHECK(told.at("faults")[1].at("code") == "courier.wiring.unknown-channel");
    CHECK(told.at("faults")[1].at("line") == 5);
    CHECK(told.at("faults")[1].at("advice") == "did you mean 'wyrms.sighted'?");
}

TEST_CASE("courier check tells of objects that the catalogue does not have") {
    const std::string file = written(
        "awaited.toml", "[[wire]]\nwhen = 'barges.moored'\ndo = { action = 'bell.ring', at = 'nort bell', parameters = "
                        "{ strokes = 1 } }\n");
    const run_result waits = courier_tool("check " + file);
    CHECK(waits.code == 0);
    CHECK(contains(waits.out,
                   "awaited.toml:3:35: the catalogue has no 'nort bell': its wires wait until it comes; did you "
                   "mean 'north bell'?\n"));
    CHECK(courier_tool("check --strict " + file).code == 1);
    CHECK(courier_tool("check " + file + " nowhere.toml").code == 1);
    CHECK(contains(courier_tool("check nowhere.toml").out, "nowhere.toml: this file cannot be read"));
    const std::string bytes = written("bytes.toml", "[[wire]]\nwhen = '\xff'\n");
    CHECK(courier_tool("check " + bytes).code == 1);
    CHECK(json::parse(courier_tool("check --json " + bytes).out).at("faults").size() == 1);
    CHECK(courier_tool("check").code == 2);
    CHECK(courier_tool("check " + file + " --catalogue " + file).code == 2);
    CHECK(contains(courier_tool("check " + file + " --catalogue " + file).err, "not JSON"));
}

TEST_CASE("courier stub prints the handler of a name, with the payload's fields") {
    CHECK(courier_tool("stub wyrms.sighted").out == "// The channel wyrms.sighted:\n"
                                                    "//   wyrm        a whole number\n"
                                                    "//   bearing     a whole number\n"
                                                    "//   distance    a whole number\n"
                                                    "void on_wyrms_sighted(const reef::WyrmSighted& payload);\n\n"
                                                    "in_.subscribe<&Class::on_wyrms_sighted>(wyrms_sighted, *this); // "
                                                    "in_ is a courier::subscriber, the last member\n");
    CHECK(contains(courier_tool("stub bell.ring").out, "void bell_ring(const reef::Ring& parameters);\n"));
    CHECK(contains(courier_tool("stub bell.ring").out, "wires.action<reef::Ring>(in_, \"bell.ring\", address, [this]"));
    CHECK(contains(courier_tool("stub watch.phase").out, "void on_watch_phase(const courier::change<"));
    CHECK(courier_tool("stub wyrms.sigthed").err ==
          "courier: there is no channel, state, action or query 'wyrms.sigthed'; did you mean 'wyrms.sighted'? "
          "[courier.tool.usage]\n");
}

TEST_CASE("courier catalogue writes what it reads, and changes tells what breaks") {
    const std::string text = courier_tool("catalogue --json").out;
    const std::string before = written("before.json", text);
    CHECK(courier_tool("catalogue --json " + before).out == text);
    CHECK(courier_tool("catalogue " + before).out == courier_tool("catalogue").out);
    CHECK(contains(courier_tool("catalogue").out, "  bell.ring, at a bell\n      strokes     a whole number\n"));
    CHECK(json::parse(text).at("asyncapi") == "3.0.0");

    const std::string night = std::string{TEST_SCRATCH} + "/changes_night.jsonl";
    REQUIRE(courier_tool("demo --seed 7 --quiet --record " + night).code == 0);
    const std::string all = " --wiring " + demo_files + "reef.toml --recording " + night;
    const run_result same = courier_tool("changes " + before + " " + before + all);
    CHECK(same.code == 0);
    CHECK(same.out == "nothing has changed\n\nwiring: nothing of it breaks\n\nrecordings: nothing of them breaks\n");

    json document = json::parse(text);
    json& sighted = document.at("components").at("schemas").at("reef_WyrmSighted");
    sighted.at("properties")["scales"] = json::parse(R"({"type":"string"})");
    const std::string more = written("more.json", document.dump());
    const run_result added = courier_tool("changes " + before + " " + more + all);
    CHECK(added.code == 0); // they are published anew
    CHECK(contains(added.out, "recordings: nothing of them breaks\n"));
    CHECK(contains(added.out, "harmless  channel 'wyrms.sighted' has a new field 'scales', a text\n"));

    sighted.at("properties").erase("distance");
    const std::string less = written("less.json", document.dump());
    const run_result taken = courier_tool("changes " + before + " " + less + all);
    CHECK(taken.code == 1);
    CHECK(contains(taken.out, "may break channel 'wyrms.sighted' has no field 'distance' any more\n"));
    CHECK(contains(taken.out, "'wyrms.sighted' has no field 'distance' [courier.wiring.unknown-field]"));
    CHECK(contains(taken.out, "changes_night.jsonl: 'wyrms.sighted' /distance: is not a field of reef::WyrmSighted "
                              "[courier.data.unknown-field] (9 events)\n"));
    CHECK(json::parse(courier_tool("changes --json " + before + " " + less + all).out).at("breaks") == true);
    CHECK(courier_tool("changes " + before + " " + less).code == 0); // nothing that was named breaks
    CHECK(courier_tool("changes " + before + " nowhere.json").code == 2);
}

TEST_CASE("courier demo reacts as the file says, records it, and replays it") {
    const std::string mine =
        written("mine.toml", replaced(content_of(demo_files + "reef.toml"), "parameters = { strokes = 2 }",
                                      "parameters = { strokes = 5 }"));
    const std::string night = std::string{TEST_SCRATCH} + "/wired_night.jsonl";
    const run_result run = courier_tool("demo --seed 7 --wiring " + mine + " --record " + night);
    CHECK(run.code == 0);
    CHECK(contains(run.out, "south bell rings 5 times\n"));
    CHECK_FALSE(contains(run.out, "rings twice"));
    CHECK(contains(run.out, "      boom is lowered\n"));
    CHECK(contains(run.out, "  wires: 17, 66 reactions, 8 failures\n"));
    CHECK(contains(courier_tool("replay " + night).out, "came again, the same and in the same order"));
    CHECK(contains(courier_tool("explain " + night + " lamp").out,
                   "in the handler of lamp falls short from " + mine + ":"));
    CHECK(contains(courier_tool("map " + night).out, "harbour shows the whale 1"));
    const run_result wrong = courier_tool("demo --wiring " + demo_files + "mistakes.toml");
    CHECK(wrong.code == 2);
    CHECK(wrong.out.empty());
    CHECK(contains(wrong.err, "\ncourier: 36 faults in the wiring, so none of it was taken\n"));
}

TEST_CASE("what the page for designers shows is right") {
    const std::string page = content_of(std::string{COURIER_DOCUMENTS} + "/wiring.md");
    int checked = 0;
    for (std::size_t at = page.find("```toml\n"); at != std::string::npos; at = page.find("```toml\n", at + 1)) {
        const std::string text = page.substr(at + 8, page.find("```\n", at + 8) - at - 8);
        const run_result r = courier_tool("check --strict " + written("page.toml", text));
        CAPTURE(r.out);
        CHECK(r.code == 0);
        ++checked;
    }
    CHECK(checked == 10);
    const run_result shown =
        courier_tool("check " + written("reef.toml", std::string(10, '\n') +
                                                         "[[wire]]\nwhen = \"wyrms.sigthed\"\ndo = \"boom.lower\"\n"));
    const std::size_t text = page.find("reef.toml:12:8");
    CHECK(contains(shown.out, page.substr(text, page.find("```", text) - text)));
    CHECK(content_of(std::string{COURIER_DOCUMENTS} + "/codes.md") == courier_tool("codes --markdown").out);
}
