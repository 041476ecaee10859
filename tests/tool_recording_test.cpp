// The commands that read recordings, on recorded nights.
#include "tool_support.hpp"

#include <nlohmann/json.hpp>

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
