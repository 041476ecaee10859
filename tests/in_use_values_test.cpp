// Code of the user's that runs in the middle of what the library does, while values change. It may do anything there.
#include "in_use_scene.hpp"

using namespace in_use;

namespace {

struct Load {
    int tons = 0;
};
struct same_load {
    int* calls;
    int throws_at;
    bool operator()(const Load& a, const Load& b) const {
        if (++*calls == throws_at) {
            throw std::runtime_error("the scales are broken");
        }
        return a.tons == b.tons;
    }
};

} // namespace

TEST_CASE("a comparison that throws while changes settle keeps nothing from being announced") {
    int calls = 0;
    for (int at = 1; at <= 4; ++at) {
        CAPTURE(at);
        calls = 0;
        courier::state<Load, same_load> load{"load", {1}, {&calls, at}};
        courier::state<int> depth{"depth", 0};
        int heard_load = 0;
        int heard_depth = 0;
        auto a = load.subscribe([&] { ++heard_load; });
        auto b = depth.subscribe([&] { ++heard_depth; });
        const auto set = [&load](int tons) { courier::together([&] { load.set({tons}); }); }; // compares twice
        CHECK_THROWS_AS((set(2), set(3)), std::runtime_error);
        const int before = heard_load;
        for (int i = 1; i < 5; ++i) {
            depth.set(i);
            load.set({10 + i});
        }
        CHECK(heard_depth == 4);
        CHECK(heard_load - before == 4);
    }
}

TEST_CASE("an old value that is destroyed may own its state, and set others") {
    courier::state<int> depth{"depth", 0};
    using held = courier::state<last_words>;
    auto owner = std::make_unique<held>("owner", nullptr);
    held* const raw = owner.get();
    auto boxed = std::make_shared<std::unique_ptr<held>>(std::move(owner));
    raw->set(at_its_end([boxed, &depth] {
        depth.set(depth.glance() + 1);
        boxed->reset();
    }));
    boxed.reset();
    raw->set(nullptr);
    CHECK(depth.glance() == 1);
}

TEST_CASE("what a state runs in the middle of a change may not change it, and is told so") {
    const test::fault_catcher faults;
    std::function<void()> during;
    struct comparing {
        std::function<void()>* during;
        bool operator()(int a, int b) const {
            if (*during) {
                (*during)();
            }
            return a == b;
        }
    };
    courier::state<int, comparing> crates{"crates", 1, {&during}};
    during = [&] { CHECK_FALSE(crates.set(9)); };
    CHECK(crates.set(2));
    CHECK(crates.glance() == 2);
    during = nullptr;
    courier::announced_map<int, int, std::function<bool(int, int)>>* berths = nullptr;
    courier::announced_map<int, int, std::function<bool(int, int)>> map{"berths", {{1, 1}}, [&](int a, int b) {
                                                                            CHECK_FALSE(berths->set(2, 2));
                                                                            return a == b;
                                                                        }};
    berths = &map;
    CHECK(map.set(1, 5));
    REQUIRE(faults.caught().size() == 2);
    CHECK(faults.caught()[0].code == courier::fault_code::changed_in_use);
    CHECK(test::contains(faults.caught()[0].text(), "state 'crates' is set by"));
    CHECK(test::contains(faults.caught()[1].text(), "map 'berths' is set by"));
}
