// Files that are loaded again while the game runs.
#include "../allocations.hpp"
#include "support.hpp"

#include <unistd.h>

using namespace wired;
using namespace std::chrono_literals;

namespace {

class folder {
public:
    folder() : path_(std::filesystem::temp_directory_path() / ("courier_wiring_" + std::to_string(getpid()))) {
        std::filesystem::create_directories(path_);
    }
    folder(const folder&) = delete;
    folder& operator=(const folder&) = delete;
    ~folder() { std::filesystem::remove_all(path_); }
    std::filesystem::path write(const std::string& name, const std::string& text) const {
        std::ofstream(path_ / name, std::ios::binary) << text;
        return path_ / name;
    }

private:
    std::filesystem::path path_;
};

const std::string slow = R"(
[[wire]]
when = "wyrms.sighted"
after = "2 s"
do = { action = "board.write", parameters = { text = "slow {wyrm}" } }
)";
const std::string quick = R"(
[[wire]]
when = "hoist.raised"
times = 2
do = "horn.sound"
)";

} // namespace

TEST_CASE("what is unchanged goes on: delays under way and times left; what is gone is dropped and counted") {
    harbour h;
    REQUIRE(h.load(slow + quick) == "");
    CHECK(h.change.added == 2);
    h.sighted.publish(harbour::wyrm(1, 1));
    h.raised.publish({});
    CHECK(h.said() == "horn");
    REQUIRE(h.load("# a remark\n" + quick + slow) == "");
    CHECK(h.change.kept == 2);
    CHECK(h.change.added == 0);
    CHECK(h.wires.wires()[0].line == 3);
    h.pass(2s);
    CHECK(h.said() == "slow 1");
    h.raised.publish({});
    h.raised.publish({});
    CHECK(h.said() == "horn"); // the second and last
    h.sighted.publish(harbour::wyrm(2, 1));
    h.sighted.publish(harbour::wyrm(3, 1));
    REQUIRE(h.load(quick) == "");
    CHECK(h.change.removed == 1);
    CHECK(h.change.dropped == 2);
    h.pass(9s);
    CHECK(h.said() == "");
}

TEST_CASE("with any fault, what is in force stays in force") {
    harbour h;
    REQUIRE(h.load(quick) == "");
    CHECK(h.load(slow + "[[wire]]\nwhen = 'hoist.rised'\ndo = 'horn.sound'\n") != "");
    CHECK(h.load("[[wire]\n") != "");
    REQUIRE(h.wires.wires().size() == 1);
    h.raised.publish({});
    CHECK(h.said() == "horn");
}

TEST_CASE("files include others, once each, and are loaded again on demand") {
    const folder here;
    harbour h;
    here.write("common.toml", quick);
    here.write("bells.toml", "include = 'common.toml'\n");
    const auto main = here.write("main.toml", "include = ['common.toml', 'bells.toml']\n" + slow);
    h.wires.load(main);
    CHECK(h.wires.wires().size() == 2);
    CHECK_FALSE(h.wires.has_changed());
    std::filesystem::last_write_time(main, std::filesystem::last_write_time(main) + 2s);
    CHECK(h.wires.has_changed());
    const courier::wiring_change same = h.wires.reload();
    CHECK(same.kept == 2);
    CHECK_FALSE(h.wires.has_changed());
    here.write("common.toml", "include = 'main.toml'\n[[wi");
    CHECK_THROWS_AS(h.wires.reload(), courier::wiring_error);
    CHECK(h.wires.wires().size() == 2);
    here.write("common.toml", "include = 'main.toml'\n");
    CHECK_THROWS_WITH(h.wires.reload(), doctest::Contains("courier.wiring.include-circle"));
    CHECK_THROWS_WITH(
        h.wires.load("nowhere.toml"),
        doctest::Contains(
            "nowhere.toml: this file cannot be read: No such file or directory [courier.wiring.cannot-open]"));
    h.raised.publish({});
    CHECK(h.said() == "horn");
    h.wires.clear();
    h.raised.publish({});
    CHECK(h.said() == "");
}

TEST_CASE("an action may load, and switch, in the middle of its wire") {
    harbour h;
    h.wires.action(h.in, "change", [&] { CHECK(h.load(quick) == ""); });
    REQUIRE(h.load("[[wire]]\nwhen = 'hoist.raised'\ndo = ['change', 'horn.sound']\n") == "");
    h.raised.publish({});
    CHECK(h.said() == ""); // the wire was gone before the horn, and the new one came too late
    h.raised.publish({});
    CHECK(h.said() == "horn");
}

TEST_CASE("alloc: a delivery through a wire of plain fields allocates nothing") {
    harbour h;
    REQUIRE(h.load(R"(
[[wire]]
when = "wyrms.sighted"
if = { distance = { less_than = 5 }, shown = "gull" }
do = { action = "numbers.take", parameters = { whole = "{wyrm}", small = 3, real = "{at.y * 2}", time = "{since}", shown = "{shown}", yes = true } }
)") == "");
    const Sighted one = harbour::wyrm(1, 1);
    h.sighted.publish(one);
    const long before = test::allocations_so_far();
    for (int i = 0; i < 100; ++i) {
        h.sighted.publish(one);
    }
    CHECK(test::allocations_so_far() == before);
}

TEST_CASE("a draft is prepared in another thread, and overtaken ones are prepared anew") {
    harbour h;
    REQUIRE(h.load(quick).empty());
    const std::filesystem::path path = std::filesystem::temp_directory_path() / "courier_draft_test.toml";
    std::ofstream(path) << "[[wire]]\nwhen = 'hoist.raised'\ndo = 'horn.sound'\n";
    courier::wiring_draft next = h.wires.draft({path});
    std::thread([&next] { next.prepare(); }).join();
    CHECK(next.faults().empty());
    const courier::wiring_change change = h.wires.take(next);
    CHECK(change.added == 1);
    CHECK(change.removed == 1);
    h.raised.publish({});
    CHECK(h.said() == "horn");

    std::ofstream(path) << "[[wire]]\nwhen = 'hoist.raised'\ndo = 'horn.blow'\n";
    courier::wiring_draft early = h.wires.draft();
    early.prepare();
    CHECK(early.faults().size() == 1);
    CHECK_THROWS_AS(h.wires.take(early), courier::wiring_error);
    h.raised.publish({});
    CHECK(h.said() == "horn"); // nothing has changed
    h.wires.action(h.in, "horn.blow", [&h] { h.done("blown"); });
    h.wires.take(early); // what it lacked has come
    h.raised.publish({});
    CHECK(h.said() == "blown");

    courier::wiring_draft late = h.wires.draft();
    late.prepare();
    REQUIRE(h.load(quick).empty()); // overtakes it
    CHECK(h.wires.take(late).added == 1);
    CHECK(h.wires.wires().size() == 1);
    h.raised.publish({});
    CHECK(h.said() == "blown");
    courier::wiring_draft gone = h.wires.draft({"/nonexistent.toml"});
    gone.prepare();
    REQUIRE(h.load(quick).empty());
    CHECK_THROWS_AS(h.wires.take(gone), courier::wiring_error);
    CHECK(h.wires.wires().size() == 1);
    std::filesystem::remove(path);
}

TEST_CASE("without memory a wiring is taken as a whole or not at all") {
    const std::string before = "[[wire]]\nname = 'old'\nwhen = 'hoist.raised'\ndo = 'horn.sound'\n";
    const std::string after =
        "[set.s]\n[[wire]]\nname = 'a'\nset = 's'\nwhen = 'hoist.raised'\ndo = { action = "
        "'board.write', parameters = { text = 'the flag {shown}, and the tide {tide.level}' } }\n"
        "[[wire]]\nname = 'b'\nwhen = 'hoist.raised'\nduring = 'watch.dusk'\nif = { shown = "
        "['whale', 'gull'] }\ndo = { action = 'bell.ring', at = 'north bell', parameters = { strokes = 1 } }\n";
    harbour h;
    const courier::named_target bell = h.wires.target("north bell", bell::north);
    long which = 1; // 0: none fails
    bool is_done = false;
    for (; !is_done && which < 5000; ++which) {
        REQUIRE(h.load(before) == "");
        bool taken = true;
        {
            test::memory_full full(which);
            try {
                h.wires.load_text("harbour.toml", after);
            } catch (const std::bad_alloc&) {
                taken = false;
            }
            is_done = !full.happened();
        }
        h.raised.publish({flag::gull});
        const std::string said = h.said();
        CAPTURE(which);
        REQUIRE(said == (taken ? "the flag gull, and the tide 4 | north 1" : "horn"));
        REQUIRE(h.wires.wires().size() == (taken ? 2 : 1));
    }
    CHECK(is_done);
    CHECK(which > 100);
}

TEST_CASE("parameters called name or note, and what a set says, make wires different") {
    harbour h;
    h.wires.action<Named>(h.in, "name", [&h](const Named& n) { h.done(n.name); });
    const auto text = [](const std::string& name, const std::string& during) {
        return "[set.s]\nduring = '" + during +
               "'\n[[wire]]\nset = 's'\nwhen = 'hoist.raised'\ndo = { action = "
               "'name', parameters = { name = '" +
               name + "' } }\n";
    };
    REQUIRE(h.load(text("a", "watch.dusk")) == "");
    REQUIRE(h.load(text("b", "watch.dusk")) == "");
    CHECK(h.change.added == 1);
    h.raised.publish({});
    CHECK(h.said() == "b");
    REQUIRE(h.load(text("b", "watch.storm")) == "");
    CHECK(h.change.added == 1);
    h.raised.publish({});
    CHECK(h.said() == "");
    REQUIRE(h.load("# moved\n" + text("b", "watch.storm")) == "");
    CHECK(h.change.kept == 1);
}
