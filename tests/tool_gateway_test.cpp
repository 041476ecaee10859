// The commands that make pages and traces, and that look at a live game.
#include "tool_support.hpp"

#include <nlohmann/json.hpp>

#include <filesystem>
#include <fstream>
#include <iterator>
#include <set>
#include <string>

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

TEST_CASE("a report needs a name, and does not overwrite what it is of") {
    check_bad_use("report " + night(), "courier: -o FILE is missing: where the report goes, such as night.html; see "
                                       "'courier --help' [courier.tool.usage]");
    const run_result same = courier_tool("report " + night() + " -o " + night());
    CHECK(same.code == 2);
    const run_result there = courier_tool("trace " + night() + " -o /nowhere/at/all.json");
    CHECK(there.code == 2);
    CHECK(contains(there.err, "cannot write /nowhere/at/all.json: No such file or directory"));
}

TEST_CASE("watch says what is wrong with an address, or that nobody answers there") {
    check_bad_use("watch http:// --for 1s",
                  "courier: http://: not the address of a gateway; write it like http://127.0.0.1:8080/ "
                  "[courier.gateway.no-address]");
    const run_result nobody = courier_tool("watch http://127.0.0.1:9/ --for 1s");
    CHECK(nobody.code == 2);
    CHECK(nobody.out.empty());
    CHECK(contains(nobody.err, "courier: http://127.0.0.1:9/: nobody answers there; look whether the game runs, and at "
                               "which port its gateway listens [courier.gateway.no-answer]"));
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

TEST_CASE("live nights refuse what belongs to one night") {
    check_bad_use("demo --serve --record " + scratch("x.jsonl"),
                  "courier: --serve runs one night after the other; leave out --record and --careless; see 'courier "
                  "--help' [courier.tool.usage]");
}
