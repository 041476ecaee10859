// Wiring that is changed by a program, and what fits.
#include "support.hpp"

#include <courier/wiring/wiring_edit.hpp>

using namespace wired;

namespace {

constexpr const char* by_hand = R"(# The harbour, by Gudrun.
[set.storm]   # off by day
enabled = false

# Wyrms ring the north bell,
# twice if they are near.
[[wire]]
name = "near"            # a name
when = "wyrms.sighted"
if = { distance = { at_most = 4 } }   # cables
do = [
  { action = "bell.ring", at = "north bell", parameters = { strokes = 2 } },  # loud
  "horn.sound",
]
enabled = true

[[wire]]
when = "hoist.raised"
[wire.do]
action = "board.write"
[wire.do.parameters]
text = "{shown}"   # the flag

# The end.
)";

courier::wiring_edit edit_of(const harbour& h, const std::string& text = by_hand) {
    return {"harbour.toml", text, h.wires.catalogue()};
}

bool has(const std::vector<std::string>& all, const std::string& one) {
    return std::find(all.begin(), all.end(), one) != all.end();
}

} // namespace

TEST_CASE("wires of a file are told as they stand") {
    const harbour h;
    const std::vector<courier::edited_wire> wires = edit_of(h).wires();
    REQUIRE(wires.size() == 2);
    CHECK(wires[0].name == "near");
    CHECK(wires[0].when == "wyrms.sighted");
    CHECK(wires[0].line == 7);
    CHECK(wires[0].enabled);
    CHECK(wires[0].text.starts_with("# Wyrms ring the north bell,\n# twice if they are near.\n[[wire]]\n"));
    CHECK(wires[0].text.ends_with("enabled = true\n"));
    CHECK(wires[1].text ==
          "[[wire]]\nwhen = \"hoist.raised\"\n[wire.do]\naction = \"board.write\"\n[wire.do.parameters]\n"
          "text = \"{shown}\"   # the flag\n");
}

TEST_CASE("a change leaves comments, order and all others as they are") {
    const harbour h;
    courier::wiring_edit file = edit_of(h);
    file.set(0, "enabled", "false");
    file.set(0, "name", "\"very near\"");
    file.set(0, "if", "{ distance = { at_most = 3 } }");
    std::string expected = by_hand;
    expected.replace(expected.find("enabled = true"), 14, "enabled = false");
    expected.replace(expected.find("\"near\""), 6, "\"very near\"");
    expected.replace(expected.find("at_most = 4"), 11, "at_most = 3");
    CHECK(file.text() == expected);
    CHECK(file.check().clean());

    file.set(0, "do", "\"horn.sound\"");
    CHECK(test::contains(file.text(), "if = { distance = { at_most = 3 } }   # cables\ndo = \"horn.sound\"\nenabled"));
    file.set(1, "note", "'shown'");
    CHECK(test::contains(file.text(), "when = \"hoist.raised\"\nnote = 'shown'\n[wire.do]\n"));
    file.set(1, "do", "\"horn.sound\"");
    CHECK(test::contains(file.text(), "note = 'shown'\ndo = \"horn.sound\"\n"));
    CHECK(test::contains(file.text(), "# The end.\n"));
    CHECK_FALSE(test::contains(file.text(), "[wire.do]"));
    CHECK(file.check().clean());

    file.erase(0, "enabled");
    file.erase(0, "nothing of that name");
    CHECK_FALSE(test::contains(file.text(), "enabled = true"));
    CHECK(file.wires()[0].enabled);
}

TEST_CASE("wires are added behind the others, and taken out with their comments") {
    const harbour h;
    courier::wiring_edit file = edit_of(h);
    CHECK(file.add("when = \"tide.level\"\ndo = \"horn.sound\"") == 2);
    CHECK(test::contains(file.text(),
                         "# the flag\n\n[[wire]]\nwhen = \"tide.level\"\ndo = \"horn.sound\"\n\n# The end."));
    CHECK(file.wires().size() == 3);
    CHECK(file.check().clean());
    file.remove(0);
    CHECK(file.text().starts_with(
        "# The harbour, by Gudrun.\n[set.storm]   # off by day\nenabled = false\n\n[[wire]]\n"));
    CHECK(file.wires().size() == 2);
    file.remove(1);
    file.remove(0);
    CHECK(file.text() == "# The harbour, by Gudrun.\n[set.storm]   # off by day\nenabled = false\n\n# The end.\n");
    CHECK(file.add("when = \"tide.level\"\ndo = \"horn.sound\"\n") == 0);
    CHECK(file.check().clean());

    courier::wiring_edit empty("new.toml", "", h.wires.catalogue());
    CHECK(empty.add("when = \"tide.level\"\ndo = \"horn.sound\"\n") == 0);
    CHECK(empty.text() == "[[wire]]\nwhen = \"tide.level\"\ndo = \"horn.sound\"\n");
    courier::wiring_edit open("open.toml", "[[wire]]\nwhen = 'tide.level'\ndo = 'horn.sound'", h.wires.catalogue());
    open.set(0, "times", "2");
    CHECK(open.text() == "[[wire]]\nwhen = 'tide.level'\ndo = 'horn.sound'\ntimes = 2\n");
}

TEST_CASE("what would be no TOML is not done, and what is wrong as wiring is told") {
    const harbour h;
    courier::wiring_edit file = edit_of(h);
    CHECK_THROWS_AS(file.set(0, "if", "{ distance = "), courier::wiring_error);
    CHECK_THROWS_AS(static_cast<void>(file.add("when = \"tide.level")), courier::wiring_error);
    CHECK_THROWS_AS(static_cast<void>(file.add("[[wire]]\nwhen = 'tide.level'\n")), std::invalid_argument);
    CHECK_THROWS_AS(file.set(2, "if", "{}"), std::out_of_range);
    CHECK_THROWS_AS(file.remove(7), std::out_of_range);
    CHECK(file.text() == by_hand);
    file.set(0, "when", "\"wyrms.sigthed\"");
    REQUIRE(file.check().faults.size() == 1);
    CHECK(file.check().faults[0].code == courier::wiring_code::unknown_channel);
    CHECK(file.check().faults[0].line == 9);
}

TEST_CASE("characters of several bytes are counted as one") {
    const harbour h;
    courier::wiring_edit file = edit_of(h, "[[wire]]\nnote = 'äöü' # ß\nwhen = 'hoist.raised'\ndo = { action = "
                                           "'board.write', parameters = { text = 'Möwe' } } # ü\n");
    file.set(0, "note", "'x'");
    file.set(0, "do", "'horn.sound'");
    CHECK(file.text() == "[[wire]]\nnote = 'x' # ß\nwhen = 'hoist.raised'\ndo = 'horn.sound' # ü\n");
}

TEST_CASE("what fits is told: causes, conditions, actions, and what goes into their parameters") {
    harbour h;
    const courier::named_target bell = h.wires.target("north bell", bell::north);
    const courier::wiring_edit file = edit_of(h);
    CHECK(has(file.causes(), "wyrms.sighted"));
    CHECK(has(file.causes(), "tide.level"));
    const std::vector<courier::fitting_field> fields = file.conditions_for("wyrms.sighted");
    const auto field = [&](const std::string& name) {
        const auto found = std::find_if(fields.begin(), fields.end(), [&](const auto& f) { return f.name == name; });
        REQUIRE(found != fields.end());
        return *found;
    };
    CHECK(has(field("distance").tests, "between"));
    CHECK(field("at.y").shape.kind == courier::value_kind::real);
    CHECK_FALSE(has(field("shown").tests, "less_than"));
    CHECK(field("shown").shape.values.size() == 4);
    CHECK(file.conditions_for("nothing").empty());
    REQUIRE(file.state_conditions().size() == 1);
    CHECK(file.state_conditions()[0].name == "tide.level");

    const std::vector<courier::fitting_action> actions = file.actions_for("wyrms.sighted");
    const auto action = [&](const std::string& name) {
        const auto found = std::find_if(actions.begin(), actions.end(), [&](const auto& a) { return a.name == name; });
        REQUIRE(found != actions.end());
        return *found;
    };
    CHECK(action("bell.ring").targets == std::vector<std::string>{"north bell"});
    const courier::fitting_parameter strokes = action("bell.ring").parameters.at(0);
    CHECK(has(strokes.fields, "wyrm"));
    CHECK(has(strokes.fields, "heads"));
    CHECK_FALSE(has(strokes.fields, "at.y"));
    CHECK_FALSE(has(strokes.fields, "depth")); // it may be missing
    CHECK(has(strokes.states, "tide.level"));
    CHECK(action("board.write").parameters.at(0).fields.size() == fields.size());
}

TEST_CASE("whatever is said to fit is taken") {
    harbour h;
    const courier::named_target bell = h.wires.target("north bell", bell::north);
    const courier::wiring_edit file = edit_of(h, "");
    int tried = 0;
    for (const courier::fitting_action& action : file.actions_for("wyrms.sighted")) {
        if (action.parameters.size() != 1) {
            continue;
        }
        const courier::fitting_parameter& parameter = action.parameters.front();
        std::vector<std::string> sources = parameter.fields;
        sources.insert(sources.end(), parameter.states.begin(), parameter.states.end());
        for (const std::string& source : sources) {
            courier::wiring_edit one = file;
            one.add("when = \"wyrms.sighted\"\ndo = { action = \"" + action.name + "\"" +
                    (action.target_kind.empty() ? "" : ", at = \"north bell\"") + ", parameters = { " + parameter.name +
                    " = \"{" + source + "}\" } }");
            CAPTURE(one.text());
            CHECK(one.check().clean());
            ++tried;
        }
    }
    CHECK(tried > 15);
}

TEST_CASE("a wire is tried once, in force or not, with a sample of what it waits for") {
    harbour h;
    const courier::named_target bell = h.wires.target("north bell", bell::north);
    REQUIRE(h.load(by_hand).empty());
    const courier::wire_trial near = h.wires.try_once("near", "distance = 3\nat = { x = 4 }");
    CHECK(near.held);
    CHECK(near.failures == 0);
    CHECK(h.said() == "north 2 | horn");
    CHECK_FALSE(h.wires.try_once("near", "distance = 5").held);
    CHECK(h.said() == "");
    CHECK(h.wires.try_once("wire harbour.toml:17", "shown = 'gull'").held);
    CHECK(h.said() == "gull");

    const char* const text =
        "[[wire]]\nwhen = 'hoist.raised'\nafter = 5\ndo = { action = 'hoist.judge', parameters = { shown "
        "= '{shown}' }, failed = 'horn.sound' }\n";
    const courier::wire_trial judged = h.wires.try_text(text, "shown = 'gull'");
    CHECK(judged.held);
    CHECK(judged.failures == 1);
    CHECK(judged.last_failure == "'hoist.judge': the wrong flag");
    CHECK(h.said() == "horn");
    CHECK(h.wires.wires().size() == 2);

    CHECK_THROWS_AS(static_cast<void>(h.wires.try_once("far")), std::out_of_range);
    CHECK_THROWS_WITH(static_cast<void>(h.wires.try_once("near", "distanse = 3")),
                      doctest::Contains("'wyrms.sighted' has no field 'distanse'"));
    CHECK_THROWS_AS(static_cast<void>(h.wires.try_text("[[wire]]\nwhen = 'tide.level'\ndo = 'horn.sound'\n")),
                    courier::wiring_error);
    CHECK_THROWS_AS(static_cast<void>(h.wires.try_text(by_hand)), std::out_of_range);
}

TEST_CASE("a file is saved as a whole, unless somebody else has changed it") {
    const harbour h;
    const std::filesystem::path path = std::filesystem::temp_directory_path() / "courier_edit_test.toml";
    const auto content = [&path] {
        std::ifstream in(path, std::ios::binary);
        return std::string(std::istreambuf_iterator<char>(in), {});
    };
    std::ofstream(path) << by_hand;
    courier::wiring_edit file = courier::wiring_edit::of(path, h.wires.catalogue());
    file.set(0, "enabled", "false");
    file.save();
    CHECK(content() == file.text());
    file.set(0, "enabled", "true");
    file.save();
    CHECK(content() == by_hand);
    std::ofstream(path) << "# mine\n";
    file.set(0, "enabled", "false");
    CHECK_THROWS_WITH(file.save(), doctest::Contains("somebody else has changed this file"));
    CHECK(content() == "# mine\n");
    std::filesystem::remove(path);
    CHECK_THROWS_AS(static_cast<void>(courier::wiring_edit::of(path, h.wires.catalogue())), courier::wiring_error);
    courier::wiring_edit nowhere("/nonexistent/x.toml", "", h.wires.catalogue());
    CHECK_THROWS_AS(nowhere.save(), courier::wiring_error);
}
