// Wires from outside.
#include "support.hpp"

using namespace test;
using courier::gateway;

namespace {

constexpr const char* text = R"(# who rings
[[wire]]
name = "landing"
when = "harbour.landed"
do = { action = "bell.ring", parameters = { strokes = 2 } }
)";

struct wired_harbour : harbour {
    std::filesystem::path file = std::filesystem::temp_directory_path() / "courier_gateway_wires.toml";
    gateway out;

    wired_harbour() {
        std::ofstream(file) << text;
        wires.offer(landed);
        wires.offer(crates);
        wires.load(file);
        out.accept_edits(wires);
    }
    ~wired_harbour() { std::filesystem::remove(file); }

    answer ask(const std::string& path, const nlohmann::json& body) {
        answer made;
        REQUIRE(frames_during([&] { out.take_in(); }, [&] { made = post(out, path, body.dump()); }));
        return made;
    }
    [[nodiscard]] std::string content() const {
        std::ifstream from(file);
        return {std::istreambuf_iterator<char>(from), {}};
    }
};

} // namespace

TEST_CASE("wires in force can be looked at, with their files") {
    wired_harbour reef;
    reef.landed.publish({});
    answer got;
    CHECK(get(reef.out, "/wiring").status == 401); // its files may say more than is shown
    frames_during([&] { reef.out.take_in(); },
                  [&] {
                      got = get(reef.out, "/wiring", {{"Authorization", "Bearer " + reef.out.token()}});
                  });
    CHECK(got.body["name"] == "harbour");
    REQUIRE(got.body["wires"].size() == 1);
    CHECK(got.body["wires"][0]["name"] == "landing");
    CHECK(got.body["wires"][0]["caused"] == 1);
    CHECK(got.body["files"][0]["file"] == reef.file.string());
    CHECK(got.body["files"][0]["text"] == text);
}

TEST_CASE("what fits can be asked for, and what is wrong is told as one types") {
    wired_harbour reef;
    const answer fits = reef.ask("/wiring/fits", {{"when", "harbour.landed"}});
    CHECK(fits.body["causes"] == nlohmann::json{"harbour.landed", "harbour.crates"});
    CHECK(fits.body["conditions"][0]["name"] == "barge");
    CHECK(fits.body["actions"][0]["parameters"][0]["shape"]["words"] == "a whole number from 0 to 255");
    std::string wrong = text;
    wrong.replace(wrong.find("strokes"), 7, "stroke");
    const answer faults = reef.ask("/wiring/check", {{"file", reef.file.string()}, {"text", wrong}});
    REQUIRE(!faults.body["faults"].empty());
    CHECK(faults.body.dump().find("courier.wiring.unknown-parameter") != std::string::npos);
    CHECK(faults.body["faults"][0]["line"] == 5);
    CHECK(faults.body["wires"][0]["name"] == "landing");
    const answer no_toml = reef.ask("/wiring/check", {{"file", reef.file.string()}, {"text", "[[wire"}});
    CHECK(no_toml.body["faults"][0]["code"] == "courier.wiring.not-toml");
    CHECK(reef.ask("/wiring/check", {{"file", 3}}).status == 422);
    CHECK(reef.ask("/wiring/nothing", nlohmann::json::object()).status == 404);
}

TEST_CASE("a wire is tried, changed, added and saved; then it is in force, and the rest of the file is as it was") {
    wired_harbour reef;
    const answer tried = reef.ask("/wiring/try", {{"name", "landing"}, {"sample", "barge = 3"}});
    CHECK(tried.body["held"] == true);
    CHECK(reef.heard == std::vector<std::string>{"ring 2"});
    const answer changed =
        reef.ask("/wiring/change", {{"file", reef.file.string()},
                                    {"text", text},
                                    {"do", "set"},
                                    {"wire", 0},
                                    {"key", "do"},
                                    {"value", R"({ action = "bell.ring", parameters = { strokes = 5 } })"}});
    REQUIRE(changed.body.contains("text"));
    const answer added =
        reef.ask("/wiring/change", {{"file", reef.file.string()},
                                    {"text", changed.body["text"]},
                                    {"do", "add"},
                                    {"keys", "name = \"full\"\nwhen = \"harbour.crates\"\ndo = { action = "
                                             "\"bell.ring\", parameters = { strokes = 1 } }\n"}});
    CHECK(added.body["wire"] == 1);
    const answer saved =
        reef.ask("/wiring/save", {{"file", reef.file.string()}, {"was", text}, {"text", added.body["text"]}});
    CHECK(saved.body["saved"] == true);
    CHECK(saved.body["added"] == 2);
    CHECK(reef.content() == added.body["text"].get<std::string>());
    CHECK(reef.content().starts_with("# who rings\n"));
    reef.landed.publish({});
    CHECK(reef.heard.back() == "ring 5");
    reef.crates.set(1);
    CHECK(reef.heard.back() == "ring 1");
}

TEST_CASE("nothing is saved that is wrong, that somebody else has changed, or that is no file in force") {
    wired_harbour reef;
    std::string wrong = text;
    wrong.replace(wrong.find("bell.ring"), 9, "bell.rign");
    const answer faults = reef.ask("/wiring/save", {{"file", reef.file.string()}, {"was", text}, {"text", wrong}});
    CHECK(faults.body["faults"][0]["code"] == "courier.wiring.unknown-action");
    CHECK(reef.content() == text);
    CHECK(reef.ask("/wiring/save", {{"file", "/etc/passwd"}, {"was", ""}, {"text", ""}}).status == 422);
    std::ofstream(reef.file) << text << "# by hand\n";
    const answer late = reef.ask("/wiring/save", {{"file", reef.file.string()}, {"was", text}, {"text", text}});
    CHECK(late.status == 409);
    CHECK(reef.content().ends_with("# by hand\n"));
}

TEST_CASE("where edits are not accepted there is no wiring to be seen") {
    harbour reef;
    gateway out;
    out.accept_actions(reef.wires);
    CHECK(get(out, "/wiring", {{"Authorization", "Bearer " + out.token()}}).status == 404);
    answer got;
    frames_during([&] { out.take_in(); }, [&] { got = post(out, "/wiring/check", "{}"); });
    CHECK(got.status == 404);
}

TEST_CASE("edits reach nothing outside of the wiring's folder, by whatever way") {
    wired_harbour reef;
    const std::filesystem::path outside = std::filesystem::temp_directory_path() / "courier_gateway_outside";
    std::filesystem::create_directories(outside / "level");
    std::ofstream(outside / "secret.toml") << "secret = 'a line that nobody is to read'\n";
    const std::filesystem::path inside = outside / "level" / "wires.toml";
    std::ofstream(inside) << text;
    std::filesystem::remove(outside / "level" / "link.toml");
    std::filesystem::create_symlink(outside / "secret.toml", outside / "level" / "link.toml");
    reef.wires.load(inside);
    for (const std::string& named : {std::string("../secret.toml"), (outside / "secret.toml").string(),
                                     std::string("link.toml"), std::string("/etc/hostname")}) {
        CAPTURE(named);
        const std::string with = "include = \"" + named + "\"\n" + text;
        const nlohmann::json body{{"file", inside.string()}, {"was", text}, {"text", with}};
        for (const char* const path : {"/wiring/check", "/wiring/save"}) {
            const answer got = reef.ask(path, body);
            CHECK(got.body["faults"][0]["code"] == "courier.wiring.cannot-open");
            CHECK(got.body.dump().find("nobody is to read") == std::string::npos);
        }
    }
    CHECK(reef.ask("/wiring/check", {{"file", (outside / "x.toml").string()}, {"text", ""}}).status == 422);
    const answer odd =
        reef.ask("/wiring/change", {{"file", inside.string()}, {"text", text}, {"do", "remove"}, {"wire", -1}});
    CHECK(odd.body["detail"] == "\"wire\" is missing, or no whole number from 0 on");
    std::filesystem::remove_all(outside);
}
