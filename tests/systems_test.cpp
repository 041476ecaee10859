#include "support.hpp"

using courier::systems;
using namespace std::chrono_literals;

namespace {

std::string written;
std::string taken() {
    return std::exchange(written, {});
}

/// Notes its making, update and end.
template <char Name>
struct noted {
    noted() { written += Name; }
    noted(const noted&) = delete;
    noted& operator=(const noted&) = delete;
    ~noted() { written += std::string{'~'} + Name; }
    void update() { written += std::string{'.'} + Name; }
    void pause() { written += std::string{'('} + Name; }
    void resume() { written += std::string{')'} + Name; }
};

struct tides : noted<'t'> {
    courier::game_time passed{};
    void update(courier::game_time step) {
        passed += step;
        noted::update();
    }
};
struct weather : noted<'w'> {};
struct barges : noted<'b'> {
    barges(const tides& water, weather& above) : water_(water), above_(above) {}
    const tides& water_;
    weather& above_;
};
struct board : noted<'p'> {
    explicit board(const barges& convoy, const weather& above) : convoy_(convoy) { static_cast<void>(above); }
    const barges& convoy_;
};
struct gulls : noted<'g'> {};
struct rain : noted<'r'> {
    explicit rain(weather& above) { static_cast<void>(above); }
};

struct brake {
    courier::team* stops = nullptr;
    void update() {
        if (stops != nullptr) {
            stops->pause();
        }
    }
};

struct there;
struct here {
    explicit here(there&) { written += "here"; }
};
struct there {
    there(gulls&, here&) { written += "there"; }
};

struct breaks {
    explicit breaks(tides&, gulls&) { throw std::runtime_error("leaks"); }
};

} // namespace

TEST_CASE("asking for a system makes what it needs first, and the end destroys in the opposite order") {
    {
        systems reef{"reef"};
        board& shown = reef.get<board>();
        CHECK(taken() == "twbp");
        CHECK(&reef.get<barges>() == &shown.convoy_);
        CHECK(reef.find<tides>() == &shown.convoy_.water_);
        CHECK(reef.find<gulls>() == nullptr);
        CHECK(taken().empty());
    }
    CHECK(taken() == "~p~b~w~t");
}

TEST_CASE("systems are updated in that order, with the frame's time, by the frame driver") {
    systems reef{"reef"};
    reef.get<board>();
    taken();
    courier::outbox later;
    courier::frame_driver frame;
    frame.update(reef).deliver(later);
    frame.run(16ms);
    CHECK(taken() == ".t.w.b.p");
    frame.run(20ms);
    CHECK(reef.get<tides>().passed == 36ms);
    frame.leave(reef);
    taken();
    frame.run(16ms);
    CHECK(taken().empty());
}

TEST_CASE("a circle is refused with its path, and nothing is left of it") {
    taken();
    systems reef{"reef"};
    try {
        reef.get<here>();
        FAIL("made a circle");
    } catch (const courier::fault_error& m) {
        CHECK(m.code() == courier::fault_code::system_circle);
        CHECK(test::contains(m.what(), "here' -> '"));
        CHECK(test::contains(m.what(), "there' -> '"));
        CHECK(test::contains(m.what(), "systems_test.cpp:"));
    }
    CHECK(taken() == "g~g"); // neither of the two was begun
    CHECK(reef.list().empty());
    CHECK_THROWS_AS(reef.get<breaks>(), std::runtime_error);
    CHECK(taken() == "tg~g~t");
    reef.get<tides>();
    CHECK_THROWS_AS(reef.get<breaks>(), std::runtime_error);
    CHECK(reef.find<tides>() != nullptr); // who was there stays
    taken();
}

TEST_CASE("what is there already is lent, and what can be neither made nor found is refused") {
    struct harbour {
        explicit harbour(courier::outbox& later_) : later(later_) {}
        courier::outbox& later;
    };
    struct needs_a_number {
        explicit needs_a_number(int) {}
    };
    struct needs_that {
        explicit needs_that(const needs_a_number&) {}
    };
    courier::outbox later;
    systems reef{"reef"};
    reef.lend(later);
    CHECK(&reef.get<harbour>().later == &later);
    CHECK_THROWS_AS(reef.lend(later), courier::fault_error);
    try {
        reef.get<needs_that>();
        FAIL("made");
    } catch (const courier::fault_error& m) {
        CHECK(m.code() == courier::fault_code::system_missing);
        CHECK(test::contains(m.what(), "needs_a_number'"));
        CHECK(test::contains(m.what(), "lend() one"));
    }
    needs_a_number seven(7);
    reef.lend(seven);
    reef.get<needs_that>();
}

TEST_CASE("members of a plain struct are not what it needs") {
    struct slate {
        std::string text = "blank";
        std::vector<int> marks = {};
    };
    systems reef{"reef"};
    CHECK(reef.get<slate>().text == "blank");
    CHECK(reef.list().size() == 1);
}

TEST_CASE("a stand-in takes the place of a system, abstract or not") {
    struct sky {
        virtual ~sky() = default;
        [[nodiscard]] virtual int wind() const = 0;
    };
    struct calm : sky {
        explicit calm(const tides&) {}
        [[nodiscard]] int wind() const override { return 0; }
        void update() { written += ".calm"; }
    };
    struct kite {
        explicit kite(const sky& above) : wind(above.wind()) {}
        int wind;
    };
    systems reef{"reef"};
    reef.stand_in<sky, calm>();
    CHECK(reef.get<kite>().wind == 0);
    CHECK(reef.find<sky>() != nullptr);
    CHECK(reef.find<calm>() == nullptr);
    taken();
    reef.update(1ms);
    CHECK(taken() == ".t.calm");
}

TEST_CASE("a team is paused, replaced and ended as one") {
    systems reef{"reef"};
    reef.get<tides>();
    taken();
    courier::team storm = reef.add<rain, gulls>("storm");
    CHECK(taken() == "wrg");
    reef.update(1ms);
    CHECK(taken() == ".t.w.r.g");
    storm.pause();
    CHECK(taken() == "(w(r(g"); // the weather is there for the rain only
    CHECK(storm.paused());
    reef.update(1ms);
    CHECK(taken() == ".t");
    reef.get<weather>();
    CHECK(taken() == ")w");
    storm.resume();
    CHECK(taken() == ")r)g");
    storm = reef.add<gulls>("calm");
    CHECK(taken() == "~r"); // the gulls are in both, and the weather was asked for
    reef.update(1ms);
    CHECK(taken() == ".t.w.g");
    storm.end();
    CHECK_FALSE(storm.live());
    CHECK(taken() == "~g");
}

TEST_CASE("what others still need stays when its team ends") {
    systems reef{"reef"};
    courier::team sky = reef.add<weather>("sky");
    courier::team storm = reef.add<rain>("storm");
    sky.end();
    CHECK(reef.find<weather>() != nullptr);
    taken();
    storm.end();
    CHECK(taken() == "~r~w");
}

TEST_CASE("systems come and go safely in the middle of a frame") {
    struct master {
        systems& all;
        courier::team storm;
        explicit master(systems& reef) : all(reef) {}
        void update() {
            if (!storm.live()) {
                storm = all.add<rain>("storm");
            } else {
                storm.end();
                CHECK(all.find<rain>() == nullptr);
                CHECK(written.find("~r") == std::string::npos); // not before the frame is over
            }
        }
    };
    systems reef{"reef"};
    reef.lend(reef);
    reef.get<master>();
    courier::frame_driver frame;
    courier::outbox later;
    courier::channel<test::Dawn> dawn{"dawn"};
    courier::subscriber in{"keeper"};
    in.subscribe(dawn, [] { written += "d"; });
    frame.update(reef).deliver(later);
    frame.run(1ms);
    CHECK(taken() == "wr"); // updated from the next one on
    later.post(dawn, {});
    frame.run(1ms);
    CHECK(taken() == "(w(rd~r~w");
    frame.run(1ms);
    taken();
    SUBCASE("ended in a handler, outside of a frame") {
        in.subscribe(dawn, [&] {
            reef.find<master>()->storm.end();
            CHECK(written.find('~') == std::string::npos);
        });
        dawn.publish();
        CHECK(taken() == "d(w(r~r~w");
    }
}

TEST_CASE("one that is paused before its turn is not updated in that pass") {
    systems reef{"reef"};
    reef.get<brake>();
    courier::team storm = reef.add<gulls>("storm");
    taken();
    reef.update(1ms);
    CHECK(taken() == ".g");
    reef.get<brake>().stops = &storm;
    reef.update(1ms);
    CHECK(taken() == "(g");
    storm.resume();
    reef.get<brake>().stops = nullptr;
    reef.update(1ms);
    CHECK(taken() == ")g.g");
    storm.end();
    taken();
}

TEST_CASE("an update that throws keeps no other back, and one may end everything") {
    struct leaks {
        void update() { throw std::runtime_error("leaks"); }
    };
    struct sinks {
        std::unique_ptr<systems>& all;
        explicit sinks(std::unique_ptr<systems>& reef) : all(reef) {}
        void update() {
            all.reset();
            written += "gone";
        }
        ~sinks() { written += "~s"; }
    };
    auto reef = std::make_unique<systems>("reef");
    SUBCASE("throws") {
        reef->get<leaks>();
        reef->get<gulls>();
        taken();
        CHECK_THROWS_AS(reef->update(1ms), std::runtime_error);
        CHECK(taken() == ".g");
    }
    SUBCASE("ends everything") {
        reef->lend(reef);
        reef->get<sinks>();
        reef->get<gulls>();
        taken();
        reef->update(1ms);
        CHECK(taken() == "gone~g~s");
        CHECK(reef == nullptr);
    }
    SUBCASE("updates again") {
        struct again {
            systems& all;
            explicit again(systems& reef_) : all(reef_) {}
            void update() { all.update(1ms); }
        };
        reef->lend(*reef);
        reef->get<again>();
        reef->update(1ms);
    }
    taken();
}

TEST_CASE("systems are listed with their needs, teams and waves") {
    systems reef{"reef"};
    reef.get<board>();
    const courier::team storm = reef.add<rain, gulls>("storm");
    const auto all = reef.list();
    REQUIRE(all.size() == 6);
    CHECK(test::contains(all[2].name, "barges"));
    REQUIRE(all[2].needs.size() == 2);
    CHECK(test::contains(all[2].needs[0].name, "tides"));
    CHECK_FALSE(all[2].needs[0].changes);
    CHECK(all[2].needs[1].changes);
    CHECK(all[4].teams == std::vector<std::string>{"storm"});
    // tides, weather and gulls touch nothing in common; barges follow, and so on
    CHECK(all[0].wave == 0);
    CHECK(all[1].wave == 0);
    CHECK(all[2].wave == 1);
    CHECK(all[3].wave == 2);
    CHECK(all[4].wave == 3); // the rain changes the weather, which the board reads
    CHECK(all[5].wave == 0);
    CHECK(courier::list_systems().size() == 6);
}
