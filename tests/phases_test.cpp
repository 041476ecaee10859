#include "support.hpp"

namespace {

enum class watch { calm, storm, dawn };
enum class lamp : unsigned char { dark = 2, lit = 5 };

using hours_phases = courier::phases<watch>;

struct scene {
    std::unique_ptr<hours_phases> hours = std::make_unique<hours_phases>(
        "watch", watch::calm,
        std::initializer_list<courier::moves_from<watch>>{{watch::calm, {watch::storm, watch::dawn}},
                                                          {watch::storm, {watch::calm, watch::dawn}}});
    courier::subscriber in{"keeper"};
    std::string log;

    void note_moves() {
        in.subscribe(hours->left(watch::calm), [this] { log += "-calm "; });
        in.subscribe(hours->entered(watch::storm), [this] { log += "+storm "; });
        in.subscribe(hours->left(watch::storm), [this] { log += "-storm "; });
        in.subscribe(hours->entered(watch::calm), [this] { log += "+calm "; });
        in.subscribe(hours->moved(), [this](const courier::phase_move<watch>& m) {
            log += std::to_string(static_cast<int>(m.from)) + std::to_string(static_cast<int>(m.to)) + " ";
        });
    }
};

} // namespace

TEST_CASE("phases announce what is left and what is entered") {
    scene s;
    s.note_moves();
    CHECK(s.hours->is(watch::calm));
    CHECK(s.hours->move_to(watch::storm));
    CHECK(s.hours->now() == watch::storm);
    CHECK(s.log == "-calm +storm 01 ");
    CHECK(s.hours->times_entered(watch::storm) == 1);
    const courier::move_answer same = s.hours->move_to(watch::storm);
    CHECK(same);
    CHECK(same.outcome() == courier::move_outcome::there_already);
    CHECK(s.log == "-calm +storm 01 ");
}

TEST_CASE("a move that is not allowed is refused, and says why") {
    scene s;
    const test::fault_catcher faults;
    s.hours->move_to(watch::dawn);
    CHECK_FALSE(s.hours->may_move_to(watch::calm));
    const courier::move_answer no = s.hours->move_to(watch::calm);
    CHECK_FALSE(no);
    CHECK(no.outcome() == courier::move_outcome::not_allowed);
    CHECK(test::contains(no.why(), "'watch' does not go from dawn to calm: "));
    CHECK(test::contains(no.why(), "from there it may go to nowhere"));
    CHECK(s.hours->is(watch::dawn));
    CHECK(faults.told_once({"[courier.move-refused]"}));
    CHECK_FALSE(s.hours->move_to(static_cast<watch>(9)));
}

TEST_CASE("without a table all moves are allowed, and values need not begin at 0") {
    courier::phases<lamp> light{"lamp", lamp::dark};
    CHECK(light.move_to(lamp::lit));
    CHECK(light.move_to(lamp::dark));
    const courier::phases_report report = courier::list_phases().at(0);
    CHECK(report.phases == std::vector<std::string>{"dark", "lit"});
    CHECK(report.moves == 2);
}

TEST_CASE("a number that is none of the values is misuse") {
    scene s;
    const auto stranger = static_cast<watch>(9);
    CHECK_THROWS_AS(static_cast<void>(s.hours->entered(stranger)), courier::fault_error);
    CHECK_THROWS_AS(static_cast<void>(s.hours->times_entered(stranger)), courier::fault_error);
    CHECK_THROWS_AS(static_cast<void>(s.hours->in(watch::calm, stranger)), courier::fault_error);
    CHECK_THROWS_AS(hours_phases("watch", static_cast<watch>(257)), courier::fault_error);
    CHECK(courier::list_phases().size() == 1); // of the last, nothing is left
}

TEST_CASE("subscriptions are live during one or several phases") {
    scene s;
    courier::channel<test::Dawn> bell{"bell"};
    int in_storm = 0;
    int in_both = 0;
    s.in.subscribe(bell, [&] { ++in_storm; }, {.during = s.hours->in(watch::storm)});
    s.in.subscribe(bell, [&] { ++in_both; }, {.during = s.hours->in(watch::storm, watch::dawn)});
    bell.publish();
    s.hours->move_to(watch::storm);
    bell.publish();
    s.hours->move_to(watch::dawn);
    bell.publish();
    CHECK(in_storm == 1);
    CHECK(in_both == 2);
    s.hours.reset();
    CHECK(bell.publish().served() == 0);
}

TEST_CASE("a move that a handler makes is announced after the one before") {
    scene s;
    s.in.subscribe(s.hours->entered(watch::storm), [&] {
        CHECK(s.hours->move_to(watch::calm));
        CHECK(s.hours->is(watch::calm));
    });
    s.note_moves();
    s.hours->move_to(watch::storm);
    CHECK(s.log == "-calm +storm 01 -storm +calm 10 ");
}

TEST_CASE("moves that never end are refused") {
    scene s;
    const test::fault_catcher faults;
    bool refused = false;
    s.in.subscribe(s.hours->entered(watch::storm), [&] { s.hours->move_to(watch::calm); });
    s.in.subscribe(s.hours->entered(watch::calm),
                   [&] { refused = s.hours->move_to(watch::storm).outcome() == courier::move_outcome::never_settles; });
    s.hours->move_to(watch::storm);
    CHECK(faults.caught().size() == 1);
    CHECK(refused == s.hours->is(watch::calm));
    s.in.clear();
    CHECK(s.hours->move_to(watch::dawn)); // and it goes on
}

TEST_CASE("phases may be destroyed by whom they tell, and a handler that throws keeps nothing back") {
    scene s;
    SUBCASE("when left") {
        s.in.subscribe(s.hours->left(watch::calm), [&] { s.hours.reset(); });
    }
    SUBCASE("when entered") {
        s.in.subscribe(s.hours->entered(watch::storm), [&] { s.hours.reset(); });
    }
    SUBCASE("when moved") {
        s.in.subscribe(s.hours->moved(), [&] { s.hours.reset(); });
    }
    SUBCASE("throws") {
        s.in.subscribe(s.hours->left(watch::calm), [] { throw std::runtime_error("aground"); });
        s.note_moves();
        CHECK_THROWS_AS(s.hours->move_to(watch::storm), std::runtime_error);
        CHECK(s.log == "-calm +storm 01 ");
        return;
    }
    s.hours->move_to(watch::storm);
    CHECK(s.hours == nullptr);
}

TEST_CASE("phases inside of one of others") {
    scene s;
    courier::phases<lamp> light{"lamp", lamp::dark};
    light.stay_inside(*s.hours, watch::storm);
    const courier::witness dark{light.entered(lamp::dark)};
    const test::fault_catcher faults;
    const courier::move_answer no = light.move_to(lamp::lit);
    CHECK(no.outcome() == courier::move_outcome::outside);
    CHECK(test::contains(no.why(), "the phase that it is inside of does not go on"));
    s.hours->move_to(watch::storm);
    CHECK(light.move_to(lamp::lit));
    s.hours->move_to(watch::dawn);
    CHECK(light.is(lamp::dark));
    CHECK(dark.count() == 1);
    s.hours.reset();
    CHECK_FALSE(light.may_move_to(lamp::lit));
}

TEST_CASE("phases remember their moves, with frame and cause of the ledger") {
    scene s;
    courier::ledger night{"night"};
    night.attach_everything();
    courier::channel<test::Dawn> thunder{"thunder"};
    s.in.subscribe(thunder, [&] { s.hours->move_to(watch::storm); });
    night.end_frame();
    thunder.publish();
    s.hours->move_to(watch::calm);
    for (int i = 0; i < 300; ++i) {
        s.hours->move_to(watch::storm);
        s.hours->move_to(watch::calm);
    }
    courier::phases_report report = courier::list_phases().at(0);
    CHECK(report.name == "watch");
    CHECK(report.now == "calm");
    CHECK(report.moves == 602);
    CHECK(report.history.size() == 256);
    CHECK(report.history.back().from == "storm");
    CHECK(report.allowed.size() == 4);
    hours_phases fresh{"fresh", watch::calm};
    s.in.subscribe(thunder, [&] { fresh.move_to(watch::storm); });
    thunder.publish();
    report = courier::list_phases().at(1);
    REQUIRE(report.history.size() == 1);
    CHECK(report.history[0].frame == 1);
    CHECK(report.history[0].cause == night.latest_on("thunder"));
}
