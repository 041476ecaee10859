// A line for each event, while it runs.
#include "../support.hpp"

#include <courier/recording/narrator.hpp>

#include <regex>

namespace {

struct sighted {
    int wyrm = 0;
    std::string where = "north";
};
struct rung {
    int strokes = 1;
};

std::string plain(const std::string& line) { // without lines of this file
    return std::regex_replace(line, std::regex("[^ (]*narrator_test.cpp:[0-9]+"), "here");
}

} // namespace

TEST_CASE("what happens is told as it happens, outer events first, with who heard it and who did not") {
    courier::channel<sighted> wyrms{"wyrms.sighted"};
    courier::addressed_channel<rung, int> bells{"bells.rung"};
    courier::channel<rung> hidden{"hidden"};
    courier::state<int> tide{"tide.level", 4};
    courier::outbox later{"end of frame"};
    courier::subscriber lamp{"lamp"};
    courier::subscriber horn{"horn"};
    const courier::publisher<sighted> lookout{wyrms, "lookout"};
    lamp.subscribe(wyrms,
                   [&](const sighted& s) {
                       bells.publish_to(s.wyrm, {.strokes = 2});
                       later.post(wyrms, {.wyrm = 9});
                   },
                   {.times = 1});
    horn.subscribe(wyrms, [] {});
    horn.subscribe(wyrms, [] {}, {.condition = [](const sighted& s) { return s.wyrm > 5; }});
    horn.subscribe(tide, [] {});
    std::string lines;
    const auto take = [&lines](std::string_view line) { lines += plain(std::string(line)) + "\n"; };
    const auto told = [&lines] { return std::exchange(lines, {}); };
    {
        const courier::narrator tell{{.only = [](std::string_view name) { return name != "hidden"; }}, take};
        lookout.publish({.wyrm = 3});
        CHECK(told() == "#1 lookout (here): wyrms.sighted {wyrm 3, where north} -> lamp, horn; condition: horn\n"
                        "  #2 lamp (here): bells.rung to 3 {strokes 2} -> nobody at that address\n"
                        "  #3 lamp (here) posts wyrms.sighted {wyrm 9, where north} through 'end of frame'\n");
        hidden.publish({});
        tide.set(5);
        CHECK(told() == "#5 here: tide.level {before 4, after 5} -> horn\n");
        horn.pause();
        later.deliver();
        CHECK(told() ==

              "#6 lamp (here): wyrms.sighted {wyrm 9, where north} -> nobody; paused: horn x2 (after #3)\n");
        CHECK(tell.failure().empty());
    }
    wyrms.publish({});
    CHECK(lines.empty());
    horn.resume();
    horn.clear();

    courier::ledger night{"night"};
    night.attach_everything();
    for (const char* const name : {"a", "b", "c"}) {
        lamp.subscribe(wyrms, [name] { throw std::runtime_error(name); });
    }
    const courier::narrator tell{night, {.frames = true, .names = 0}, take};
    for (int i = 0; i < 2; ++i) {
        CHECK_THROWS(wyrms.publish({}));
        night.end_frame();
    }
    CHECK(told() == "#1 here: wyrms.sighted {wyrm 0, where north} -> nobody; failed: 3\n"
                    "frame 1\n"
                    "#2 here: wyrms.sighted {wyrm 0, where north} -> nobody; failed: 3\n");
    const test::fault_catcher faults;
    const courier::narrator second; // the thread has a ledger
    CHECK(second.failure() == "its ledger notes nothing");
}

TEST_CASE("a narrator that fails leaves the game alone, and a long chain is told within its bound") {
    courier::channel<rung> bells{"bells.rung"};
    courier::channel<rung> echoes{"echoes"};
    courier::subscriber in{"in"};
    in.subscribe(bells, [&] {
        for (int i = 0; i < 10'000; ++i) {
            echoes.publish({});
        }
    });
    std::size_t count = 0;
    {
        const courier::narrator tell{{}, [&](std::string_view) { ++count; }};
        bells.publish({});
        CHECK(count == 10'001);
    }
    const courier::narrator tell{{}, [](std::string_view) { throw std::runtime_error("the window is closed"); }};
    bells.publish({});
    CHECK(tell.failure() == "the window is closed");
}

TEST_CASE("who takes the lines may publish, which is not told, and end the narrator") {
    courier::channel<rung> bells{"bells.rung"};
    std::size_t count = 0;
    std::unique_ptr<courier::narrator> tell;
    tell = std::make_unique<courier::narrator>(courier::narrator_options{}, [&](std::string_view) {
        bells.publish({});
        if (++count == 2) {
            tell.reset();
        }
    });
    for (int i = 0; i < 3; ++i) {
        bells.publish({});
    }
    CHECK(count == 2);
    CHECK(tell == nullptr);
    // So may what chooses the channels.
    const auto ends_it = [&](std::string_view) {
        tell.reset();
        return true;
    };
    tell = std::make_unique<courier::narrator>(courier::narrator_options{.only = ends_it},
                                               [&](std::string_view) { ++count; });
    bells.publish({});
    CHECK(count == 2);
    CHECK(tell == nullptr);
}
