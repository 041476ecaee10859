#include "support.hpp"

using courier::undo_history;

namespace {

/// All values at a moment.
struct reef {
    courier::hub all{"reef"};
    courier::state<int>& tide = all.state<int>("tide.level");
    courier::state<std::string>& song = all.state<std::string>("song");
    courier::announced_list<int>& crates = all.value<courier::announced_list<int>>("crates");
    courier::subscriber in{"slate"};
    int heard = 0;

    reef() {
        in.subscribe(tide, [this](const courier::change<int>& c) { // a change that follows from another one
            ++heard;
            song.set("tide " + std::to_string(c.after() / 3));
        });
    }
    [[nodiscard]] auto now() const { return std::tuple(tide.glance(), song.glance(), crates.glance()); }
    void change(std::mt19937& chance) {
        const int what = static_cast<int>(chance() % 4);
        what == 0   ? void(tide.set(static_cast<int>(chance() % 9)))
        : what == 1 ? void(crates.add(static_cast<int>(chance() % 100)))
        : what == 2 ? void(crates.glance().empty() || crates.remove(chance() % crates.glance().size()))
                    : void(song.set(std::to_string(chance() % 5)));
    }
};

} // namespace

TEST_CASE("steps at random are undone and redone, each as one, in any mixture, within the limit") {
    for (unsigned seed = 1; seed <= 20; ++seed) {
        std::mt19937 chance(seed);
        reef r;
        undo_history steps{300};
        undo_history few{2};
        few.keep(r.tide);
        steps.keep(r.all);
        std::vector<decltype(r.now())> past{r.now()}; // and what was undone
        std::size_t at = 0;
        for (int i = 0; i < 300; ++i) {
            const unsigned what = chance() % 4;
            if (what < 2) {
                const std::size_t before = steps.undoable();
                CHECK(steps.together([&] {
                    for (unsigned n = chance() % 4; n > 0; --n) {
                        r.change(chance);
                    }
                }));
                if (steps.undoable() != before) {
                    past.resize(++at);
                    past.push_back(r.now());
                }
            } else if (what == 2) {
                at -= steps.undo() ? 1 : 0;
            } else {
                at += steps.redo() ? 1 : 0;
            }
            CAPTURE(seed);
            CAPTURE(i);
            REQUIRE(r.now() == past[at]);
            REQUIRE(steps.undoable() == at);
            REQUIRE(steps.redoable() == past.size() - 1 - at);
        }
        for (int tide = 20; tide < 24; ++tide) {
            few.together([&] { r.tide.set(tide); });
        }
        CHECK(few.undo());
        CHECK(few.undo());
        CHECK_FALSE(few.undo());
        CHECK(r.tide.glance() == 21);
    }
}

TEST_CASE("a step ends with a throw, values and histories end at any time, and what is inside of another is no step") {
    reef r;
    auto steps = std::make_unique<undo_history>();
    auto extra = std::make_unique<courier::state<int>>("extra");
    steps->keep(r.tide);
    steps->keep(r.tide);
    steps->keep(*extra);
    CHECK_THROWS_WITH(steps->together([&] {
        extra->set(1);
        r.tide.set(4);
        throw std::runtime_error("squall");
    }),
                      "squall");
    CHECK(r.tide.glance() == 4);
    extra.reset();
    r.heard = 0;
    CHECK(steps->undo());
    CHECK(r.tide.glance() == 0);
    CHECK(r.heard == 1);
    courier::together([&] { CHECK_FALSE(steps->together([&] { r.tide.set(5); })); });
    CHECK(steps->undoable() == 0);
    CHECK(steps->redo());
    CHECK(r.tide.glance() == 4);
    steps->together([&] { CHECK_FALSE(steps->undo()); });
    const courier::subscription ends = r.tide.subscribe([&] { steps.reset(); }, {.times = 1});
    steps->together([&] { r.tide.set(7); });
    CHECK(steps == nullptr);
}
