// Formulas against what they would be if everything were computed anew.
#include "support.hpp"

using courier::formula;
using courier::state;
using courier::together;

namespace {

/// Random states and formulas, which read a random choice of what was made
/// before them, and what each would be if everything were computed anew.
class random_values {
public:
    explicit random_values(unsigned seed) : chance_(seed) {
        for (int i = 0; i < 6; ++i) {
            states_.push_back(std::make_unique<state<int>>("state", roll(4)));
        }
        for (int i = 0; i < 24; ++i) {
            rules_.push_back({roll(i + 6), roll(i + 6), roll(i + 6), roll(3) == 0});
            formulas_.push_back(std::make_unique<formula<int>>("formula", [this, i] { return compute(i); }));
        }
        for (int v = 0; v < 6; ++v) {
            watch(v);
        }
    }

    void step() {
        const int what = roll(10);
        if (what < 5) {
            set_one();
        } else if (what < 7) {
            together([&] {
                for (int n = roll(5); n >= 0; --n) {
                    set_one();
                    check(roll(24));
                }
            });
        } else if (what < 8) {
            check(roll(24));
        } else if (what < 9) {
            watch(roll(6));
        } else {
            views_[static_cast<std::size_t>(roll(6))].reset();
        }
        for (std::size_t v = 0; v < views_.size(); ++v) {
            if (views_[v] != nullptr) {
                REQUIRE(views_[v]->shown == wanted(views_[v]->of));
            }
        }
    }

private:
    struct rule {
        int chooser, one, other;
        bool coarse; ///< gives the same for several values
    };
    struct refresher {
        int of = 0;
        int shown = -1;
        courier::subscriber in{"refresher"};
    };

    int roll(int below) { return static_cast<int>(chance_() % static_cast<unsigned>(below)); }
    void set_one() { states_[static_cast<std::size_t>(roll(6))]->set(roll(4)); }

    void watch(int v) {
        auto made = std::make_unique<refresher>();
        made->of = roll(24) + 6;
        refresher& own = *made;
        made->in.keep_current([this, &own] {
            const int fresh = value(own.of);
            CHECK(fresh != own.shown); // run only when there is something new
            own.shown = fresh;
        });
        views_[static_cast<std::size_t>(v)] = std::move(made);
    }

    int value(int at) const {
        return at < 6 ? states_[static_cast<std::size_t>(at)]->read()
                      : formulas_[static_cast<std::size_t>(at) - 6]->read();
    }
    int compute(int i) const {
        const rule& r = rules_[static_cast<std::size_t>(i)];
        const int sum = value(r.chooser) % 2 == 0 ? value(r.one) + 1 : value(r.other) * 3 % 17;
        return r.coarse ? sum / 4 : sum;
    }
    int wanted(int at) const { // the same without the library's help
        if (at < 6) {
            return states_[static_cast<std::size_t>(at)]->glance();
        }
        const rule& r = rules_[static_cast<std::size_t>(at) - 6];
        const int sum = wanted(r.chooser) % 2 == 0 ? wanted(r.one) + 1 : wanted(r.other) * 3 % 17;
        return r.coarse ? sum / 4 : sum;
    }
    void check(int i) { REQUIRE(formulas_[static_cast<std::size_t>(i)]->read() == wanted(i + 6)); }

    std::mt19937 chance_;
    std::vector<std::unique_ptr<state<int>>> states_;
    std::vector<rule> rules_;
    std::vector<std::unique_ptr<formula<int>>> formulas_;
    std::vector<std::unique_ptr<refresher>> views_{6};
};

} // namespace

TEST_CASE("random states, formulas and refreshers are always as if everything had been computed anew") {
    for (unsigned seed = 1; seed <= 40; ++seed) {
        CAPTURE(seed);
        random_values values(seed);
        for (int i = 0; i < 150; ++i) {
            values.step();
        }
    }
}
