// The commands that make pages and traces, and that look at a live game.
#include "tool_support.hpp"

#include <nlohmann/json.hpp>

using nlohmann::json;
using test::contains;

namespace {

std::string scratch(const std::string& name) {
    return std::string{TEST_SCRATCH} + "/gateway_" + name;
}

std::string night() {
    const std::string file = scratch("night.jsonl");
    if (!std::filesystem::exists(file)) {
        REQUIRE(courier_tool("demo --quiet --seed 7 --record " + file).code == 0);
    }
    return file;
}

json read(const std::string& file) {
    std::ifstream in(file);
    return json::parse(in);
}

} // namespace

TEST_CASE("a trace has every frame and event, handlers as long as they took, and arrows from causes") {
    const std::string file = scratch("trace.json");
    const run_result r = courier_tool("trace " + night() + " -o " + file);
    CHECK(r.code == 0);
    CHECK(r.out == file + ": opens in whatever reads the Trace Event format\n");
    const json made = read(file);
    std::size_t frames = 0;
    std::size_t events = 0;
    std::set<std::uint64_t> begun;
    std::set<std::uint64_t> arrived;
    std::set<std::string> lines;
    double latest = 0;
    bool has_measured = false;
    for (const json& one : made["traceEvents"]) {
        const std::string kind = one["ph"];
        if (kind == "M") {
            lines.insert(one["args"]["name"].get<std::string>());
            continue;
        }
        CHECK(one["ts"].get<double>() >= 0);
        latest = std::max(latest, one["ts"].get<double>());
        frames += one["cat"] == "frame" ? 1 : 0;
        events += one["cat"] == "publish" || one["cat"] == "post" ? 1 : 0;
        has_measured = has_measured || (one["cat"] == "handler" && one["args"]["ns"] != 0);
        if (kind == "s") {
            begun.insert(one["id"].get<std::uint64_t>());
        } else if (kind == "f") {
            arrived.insert(one["id"].get<std::uint64_t>());
        }
    }
    CHECK(frames == 120);
    const json stats = json::parse(courier_tool("stats " + night() + " --json").out);
    std::size_t all = 0;
    for (const json& channel : stats["channels"]) {
        all += channel["published"].get<std::size_t>() + channel["posted"].get<std::size_t>();
    }
    CHECK(events == all);
    CHECK(begun == arrived);
    CHECK(begun.size() > 100);
    CHECK(has_measured);
    CHECK(lines.contains("horn"));
    CHECK(latest < 60e6); // 120 frames of half a second
    CHECK(json::parse(courier_tool("trace " + night()).out) == made);
    CHECK(json::parse(courier_tool("trace " + night() + " -o -").out) == made);
}

TEST_CASE("a live game is watched through its gateway") {
    const std::string script = scratch("live.sh");
    std::ofstream(script) << "\"$1\" demo --serve --pace 100 --frames 200 >\"$2\" &\ngame=$!\n"
                             "for i in $(seq 100); do grep -q Ctrl-C \"$2\" && break; sleep 0.1; done\n"
                             "address=$(sed -nE 's|^the page: (http://[^/]*)/.*|\\1/|p' \"$2\")\n"
                             "\"$1\" watch \"$address\" --for 3s --json | tail -n 1\n"
                             "kill -INT $game && wait $game\n";
    std::FILE* const pipe = popen(("bash " + script + " " + COURIER_TOOL + " " + scratch("live.txt")).c_str(), "r");
    REQUIRE(pipe != nullptr);
    const std::string out = test::read_all(pipe);
    CHECK(pclose(pipe) == 0);
    const json last = json::parse(out, nullptr, false);
    REQUIRE(last.is_object());
    CHECK(last["frames"].get<int>() > 50);
    CHECK(last["events"].get<int>() > 100);
    CHECK(contains(out, "barges.moved"));
}
