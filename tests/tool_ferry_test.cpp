// A night of several reefs, each a process, and chains of causes through their recordings.
#include "tool_support.hpp"

#include <nlohmann/json.hpp>

using nlohmann::json;
using test::contains;

namespace {

struct reefs_night {
    std::string folder = std::string{TEST_SCRATCH} + "/reefs";
    run_result result;
    reefs_night() {
        std::filesystem::remove_all(folder);
        std::filesystem::create_directories(folder);
        result = courier_tool("demo --processes 3 --seed 3 --record " + folder + "/night.jsonl");
    }
    [[nodiscard]] std::string of(const std::string& who) const { return folder + "/night-" + who + ".jsonl"; }
};

/// It takes seconds, so that it is run once.
const reefs_night& the_night() {
    static const reefs_night one;
    return one;
}

} // namespace

TEST_CASE("courier demo --processes brings every barge home once, though a lighthouse dies") {
    const run_result& r = the_night().result;
    CHECK_MESSAGE(r.code == 0, (r.out + r.err));
    CHECK(contains(r.out, "3 lighthouses, the harbour office, and a broker at 127.0.0.1:"));
    CHECK(contains(r.out, "reef-2 is killed"));
    CHECK(contains(r.out, "reef-2 died"));
    CHECK(contains(r.out, "reef-2 comes back"));
    CHECK(contains(r.out, "home: 9 of 9 barges"));
    CHECK(contains(r.out, "told twice: 0 legs; not come: 0 payloads of "));
    for (int reef = 1; reef <= 3; ++reef) { // each barge once at each leg
        for (int barge = 1; barge <= 3; ++barge) {
            for (int leg = reef; leg <= 3; ++leg) {
                const std::string line = "barge reef-" + std::to_string(reef) + "/" + std::to_string(barge) +
                                         " sails from reef-" + std::to_string(leg) + " ";
                const std::size_t first = r.out.find(line);
                CHECK_MESSAGE(first != std::string::npos, line);
                CHECK_MESSAGE(r.out.find(line, first + 1) == std::string::npos, line);
            }
        }
    }
}

TEST_CASE("courier explain follows a barge through the recordings of several processes") {
    const reefs_night& night = the_night();
    const std::string all = night.of("reef-1") + " " + night.of("reef-3") + " " + night.of("office");
    const run_result r = courier_tool("explain " + all + " office.under_way");
    CHECK(r.code == 0);
    CHECK(contains(r.out, "office: office.under_way last carried event "));
    CHECK(contains(r.out, ", 2 steps from its first cause"));
    CHECK(contains(r.out, " publishes barges.moored "));
    CHECK(contains(r.out, "passage publishes passage.sails to office "));
    CHECK(contains(r.out, "ferry publishes office.under_way to office "));
    CHECK(contains(r.out, "at ferry gannet/barges/+, from event "));
    CHECK(contains(r.out, " of reef-3\n"));
    const json chain = json::parse(courier_tool("explain --json " + all + " office.under_way").out);
    REQUIRE(chain.size() == 3);
    CHECK(chain[0]["recording"] == "reef-3");
    CHECK(chain[2]["recording"] == "office");
    CHECK(chain[2]["from"]["process"] == "reef-3");
    CHECK(chain[2]["from"]["event"] == chain[1]["event"]);

    // Without the recording of the process that it came from, it says which is missing.
    const run_result alone = courier_tool("explain " + night.of("office") + " office.under_way");
    const std::string missing = chain[2]["from"]["run"];
    CHECK(contains(alone.out, "; to follow it, give the recording of its run " + missing + ", too\n"));
    // Without a question: the latest that came over.
    CHECK(contains(courier_tool("explain " + night.of("reef-1") + " " + night.of("office")).out,
                   "the latest event from another process is "));
    // The other life of the one that was killed is another recording, by its run.
    const std::string sailed = " " + night.of("reef-3") + " passage.expected";
    CHECK(contains(courier_tool("explain " + night.of("reef-2-again") + sailed).out, "\nreef-2 frame "));
    CHECK_FALSE(contains(courier_tool("explain " + night.of("reef-2") + sailed).out, "\nreef-2 frame "));
    CHECK(courier_tool("stats " + night.of("reef-2")).code == 0); // it is read as far as it goes
}
