// Catalogues: written, read, compared, and checked against without the program.
#include "support.hpp"

#include <courier/wiring/catalogue_comparison.hpp>
#include <courier/wiring/catalogue_file.hpp>
#include <courier/wiring/check.hpp>
#include <courier/wiring/client.hpp>

using namespace wired;

namespace wired {

struct Depth {
    int fathoms;
};
struct DepthAsked {
    using answer = Depth;
    int hour;
};
struct Manifest {
    std::vector<place> berths;
    std::vector<std::string> goods;
    std::int64_t big;
    std::uint64_t bigger;
};

} // namespace wired

namespace {

courier::catalogue everything() {
    harbour h;
    courier::channel<Manifest> landed("cargo.landed");
    const courier::query<DepthAsked> depth("depth");
    h.wires.offer(landed);
    h.wires.offer(depth);
    h.wires.offer(courier::after(courier::ordinary, "presentation"));
    h.wires.announce("horn.sound", "wyrms.sighted");
    const courier::named_target bell = h.wires.target("north bell", bell::north);
    return h.wires.catalogue();
}

std::vector<std::string> told(const courier::catalogue& before, const courier::catalogue& after) {
    std::vector<std::string> all;
    for (const courier::catalogue_change& one : compare(before, after)) {
        all.push_back((one.may_break ? "! " : "") + one.where + " " + one.what);
    }
    return all;
}

template <class Entries>
auto& named(Entries& entries, const std::string& name) {
    return *std::find_if(entries.begin(), entries.end(), [&](const auto& one) { return one.name == name; });
}

using changes = std::vector<std::string>;

} // namespace

TEST_CASE("what is no catalogue is refused, with where and what to do") {
    using doctest::Contains;
    const auto read = [](const std::string& text) { static_cast<void>(courier::catalogue_of(text, "old.json")); };
    CHECK_THROWS_WITH(read("{"), Contains("old.json: not JSON at byte 2"));
    CHECK_THROWS_WITH(read("[]"), Contains("old.json#: there is no 'asyncapi'"));
    CHECK_THROWS_WITH(read(R"({"asyncapi":"2.6.0"})"), Contains("old.json#/asyncapi: not an AsyncAPI 3 document"));
    CHECK_THROWS_WITH(read(R"({"asyncapi":"3.0.0","info":{"title":"x"}})"), Contains("there is no 'operations'"));
    CHECK_THROWS_WITH(read(R"({"asyncapi":"3.0.0","info":{"title":"x"},"operations":{"a":{"action":"send",
        "channel":{"$ref":"#/nowhere"}}}})"),
                      Contains("'#/nowhere' is nowhere in this document"));
    CHECK_THROWS_AS(static_cast<void>(courier::read_catalogue("/nonexistent.json")), courier::catalogue_error);
    // Whatever is cut off or changed is either read or refused.
    const std::string whole = courier::to_asyncapi(everything());
    for (std::size_t i = 0; i < whole.size(); i += 97) {
        std::string changed = whole;
        changed[i] = changed[i] == '"' ? '1' : '"';
        try {
            static_cast<void>(courier::catalogue_of(changed));
        } catch (const courier::catalogue_error&) {
            continue;
        }
    }
}

TEST_CASE("schemas that hold themselves are refused") {
    CHECK_THROWS_WITH(static_cast<void>(courier::catalogue_of(R"({"asyncapi":"3.0.0","info":{"title":"x"},
        "components":{"schemas":{"a":{"type":"array","items":{"$ref":"#/components/schemas/a"}}}},
        "operations":{"a":{"action":"send","channel":{"address":"a",
          "messages":{"m":{"payload":{"$ref":"#/components/schemas/a"}}}}}}})")),
                      doctest::Contains("deep in one another"));
}

TEST_CASE("two catalogues are compared, and what may break is told apart") {
    const courier::catalogue before = everything();
    CHECK(told(before, before).empty());

    courier::catalogue more = before;
    named(more.channels, "wyrms.sighted").payload.fields.push_back({"scales", {}});
    named(more.channels, "hoist.raised").payload.fields[0].shape.values.push_back("heron");
    more.actions.push_back(more.actions.front());
    more.actions.back().name = "boom.lower";
    more.stages.push_back("late");
    CHECK(told(before, more) == changes{"channel 'wyrms.sighted' has a new field 'scales', of an unknown type",
                                        "channel 'hoist.raised' has a new value of 'shown' 'heron'",
                                        "action 'boom.lower' is new", "the program has a new stage 'late'"});
    CHECK(told(more, before).size() == 4);

    courier::catalogue less = before;
    auto& sighted = named(less.channels, "wyrms.sighted").payload.fields;
    named(sighted, "distance").shape.kind = courier::value_kind::text;
    named(sighted, "heads").shape.most = 100;
    std::erase_if(sighted, [](const auto& one) { return one.name == "wyrm"; });
    std::erase_if(less.channels, [](const auto& one) { return one.name == "bells.hailed"; });
    named(less.actions, "bell.ring").parameters.fields.push_back({"loud", before.channels[0].payload.fields[0].shape});
    CHECK(told(before, less) == changes{"! channel 'wyrms.sighted' has no field 'wyrm' any more",
                                        "! channel 'wyrms.sighted' 'distance' is a text, and was a whole number",
                                        "! channel 'wyrms.sighted' 'heads' is from 0 to 100, and was from 0 to 255",
                                        "! channel 'bells.hailed' is gone",
                                        "! action 'bell.ring' needs a new parameter 'loud', a whole number"});
}

TEST_CASE("files are checked against a catalogue as they are in the program") {
    const courier::catalogue has = courier::catalogue_of(courier::to_asyncapi(everything()));
    const courier::wiring_check right = courier::check_wiring_text(
        "a.toml",
        "[[wire]]\nwhen = 'wyrms.sighted'\ndo = [\n  { action = 'bell.ring', at = 'nort bell', parameters = { strokes "
        "= 1 } },\n  { action = 'bell.ring', at = 'north bell', parameters = { strokes = 1 } },\n]\n",
        has);
    CHECK(right.clean());
    CHECK(right.wires == 1);
    REQUIRE(right.awaited.size() == 1);
    CHECK(right.awaited[0].name == "nort bell");
    CHECK(right.awaited[0].line == 4);
    CHECK(right.awaited[0].advice == "did you mean 'north bell'?");

    const std::filesystem::path folder = std::filesystem::temp_directory_path() / "courier_check_test";
    std::filesystem::create_directories(folder);
    std::ofstream(folder / "a.toml") << "include = 'b.toml'\n";
    std::ofstream(folder / "b.toml") << "[[wire]]\nwhen = 'wyrms.sigthed'\ndo = 'horn.sound'\n";
    const courier::wiring_check wrong = courier::check_wiring({folder / "a.toml"}, has);
    CHECK(wrong.files == 2);
    REQUIRE(wrong.faults.size() == 1);
    CHECK(wrong.faults[0].file == (folder / "b.toml").string());
    const courier::wiring_check edited =
        courier::check_wiring_edited(folder / "b.toml", "[[wire]]\nwhen = 'wyrms.sighted'\ndo = 'boom.lower'\n", has);
    REQUIRE(edited.faults.size() == 1);
    CHECK(edited.faults[0].code == courier::wiring_code::unknown_action);
    std::filesystem::remove_all(folder);
}

TEST_CASE("a page's module has a function for each name, with its types") {
    courier::catalogue all = everything();
    all.channels.push_back({"in", {}, {}, false});
    all.channels.push_back({"on.in", {}, {}, true});
    all.actions.push_back({"9 lives", {}, {}, {}, {}});
    all.actions.push_back({"set on.in", {}, {}, {}, {}});
    all.actions.push_back({"delete", {}, {}, {}, {}});
    all.channels.push_back({"connection", {}, {}, false}); // which the module has itself
    all.channels.push_back({"stream", {}, {}, true});
    all.channels.push_back({"a */ b \xff", {}, {}, false});
    const std::string script = courier::client_script(all);
    const std::string types = courier::client_types(all);
    const std::pair<const std::string*, std::string> wanted[]{
        {&script, "export const onCargoLanded = (heard) => own.listen(\"cargo.landed\", heard);"},
        {&script, "\"on.in\"];"},
        {&script, "export const onIn = (heard)"},
        {&script, "export const onIn_ = (shows)"},
        {&script, "export const _9Lives = ("},
        {&script, "export const delete_ = ("},
        {&script, "export const onConnection_ = ("},
        {&script, "export const stream = ("},
        {&script, "own.listen(\"a */ b \\ufffd\", heard)"},
        {&types, "/** The channel \"a * / b \\ufffd\". */"},
        {&types, "onCargoLanded(heard: Hears<{ berths: { "},
        {&types, "goods: string[]; big: number"},
        {&types, "(parameters: { strokes: number }, at: \"north bell\"): Promise<"},
        {&types, "export function setOnIn(parameters?: unknown): Promise<void>;"},
    };
    for (const auto& [text, part] : wanted) {
        CAPTURE(part);
        CHECK(text->find(part) != std::string::npos);
    }
}
