#include "allocations.hpp"
#include "support.hpp"

#include <cmath>

using courier::change;
using courier::state;
using courier::together;

namespace {

std::string shown(const change<int>& c) {
    return std::to_string(c.before()) + ">" + std::to_string(c.after()) + (c.retained() ? "! " : " ");
}

struct heard {
    std::string log;
    courier::subscriber in{"heard"};

    template <class... Same>
    void listen(const state<int, Same...>& to, bool current = false) {
        in.subscribe(to, [this](const change<int>& c) { log += shown(c); }, {.retained = current});
    }
};

} // namespace

TEST_CASE("a state announces what it was and is, and nothing when it is set to the same") {
    state<int> crates{"crates", 12};
    heard h;
    h.listen(crates);
    CHECK(crates.set(11));
    CHECK_FALSE(crates.set(11));
    CHECK(crates.edit([](int& v) { v -= 4; }));
    CHECK(h.log == "12>11 11>7 ");
    CHECK(crates.read() == 7);
    CHECK(crates.glance() == 7);
    CHECK(crates.name() == "crates");
    CHECK(crates.size() == 1);
    CHECK(h.in.leave(crates) == 1);
    crates.set(0);
    CHECK(h.log == "12>11 11>7 ");
}

TEST_CASE("how values are compared can be given") {
    const auto near = [](float a, float b) { return std::fabs(a - b) < 0.5F; };
    state<float, decltype(near)> depth{"depth", 4.0F, near};
    int told = 0;
    const courier::subscription kept = depth.subscribe([&](const change<float>&) { ++told; });
    CHECK_FALSE(depth.set(4.2F));
    CHECK(depth.set(4.6F));
    CHECK(told == 1);
    struct berth { // without ==
        int barge;
    };
    state<berth, bool (*)(const berth&, const berth&)> at{
        "berth", {}, [](const berth& a, const berth& b) { return a.barge == b.barge; }};
    CHECK_FALSE(at.set({0}));
    CHECK(at.set({3}));
}

TEST_CASE("who subscribes says whether the current value is wanted first") {
    state<int> crates{"crates", 12};
    heard wants;
    wants.listen(crates, true);
    heard does_not;
    does_not.listen(crates);
    CHECK(wants.log == "12>12! ");
    CHECK(does_not.log.empty());
    int once = 0;
    courier::subscription kept = crates.subscribe([&](const change<int>&) { ++once; }, {.times = 1, .retained = true});
    CHECK(once == 1);
    CHECK_FALSE(kept.live());
}

TEST_CASE("changes made together are announced once, and not when nothing is left of them") {
    state<int> a{"a", 1};
    state<int> b{"b", 2};
    heard h;
    h.listen(a);
    h.listen(b);
    const int result = together([&] {
        b.set(5);
        a.set(2);
        together([&] { a.set(3); });
        CHECK(a.read() == 3);
        CHECK(h.log.empty());
        return a.read();
    });
    CHECK(result == 3);
    CHECK(h.log == "2>5 1>3 ");
    h.log.clear();
    together([&] {
        a.set(8);
        a.set(3);
    });
    CHECK(h.log.empty());
    CHECK_THROWS_AS(together([&] {
                        a.set(9);
                        throw std::runtime_error("squall");
                    }),
                    std::runtime_error);
    CHECK(h.log == "3>9 "); // what was set stays set
}

TEST_CASE("a handler that sets the state again is heard of afterwards, by everybody in the same order") {
    state<int> a{"a", 0};
    heard first;
    heard second;
    first.in.subscribe(a, [&](const change<int>& c) {
        first.log += shown(c);
        if (c.after() == 1) {
            a.set(2);
            a.set(3);
            CHECK(a.read() == 3);
            CHECK(c.after() == 1); // still what was announced
        }
    });
    second.listen(a);
    a.set(1);
    CHECK(first.log == "0>1 1>3 ");
    CHECK(second.log == first.log);
}

TEST_CASE("a state may be destroyed by its handler, and a handler that throws silences nobody") {
    auto a = std::make_unique<state<int>>("a", 0);
    heard h;
    h.in.subscribe(*a, [&](const change<int>&) { a.reset(); });
    a->set(1);
    CHECK(a == nullptr);

    state<int> b{"b", 0};
    h.in.subscribe(b, [](const change<int>&) { throw std::runtime_error("squall"); });
    h.listen(b);
    CHECK_THROWS_WITH(b.set(1), "squall");
    CHECK(h.log == "0>1 ");
    CHECK_THROWS_WITH(b.set(2), "squall");
    CHECK(h.log == "0>1 1>2 ");
}

TEST_CASE("handlers that change states for ever are stopped and named") {
    state<int> a{"tide", 0};
    state<int> b{"swell", 0};
    courier::subscriber in;
    const test::fault_catcher faults;
    in.keep_current([&] { b.set(b.read() + 1); });
    CHECK(faults.told_once(
        {"[courier.never-settles]", "after 100 waves of changes there are still more: refresher at "}));
    in.clear();
    int runs = 0;
    in.keep_current([&] {
        ++runs;
        if (a.read() > 0) {
            a.set(a.glance() + 1);
        }
    });
    a.set(1);
    CHECK(faults.caught().size() == 2);
    a.set(-1); // what was cut short is still heard of
    CHECK(runs > 100);
    const int before = runs;
    a.set(-2);
    CHECK(runs == before + 1);
}

TEST_CASE("values that can only be moved") {
    state<std::unique_ptr<int>> chart{"chart"};
    int seen = 0;
    const courier::subscription kept =
        chart.subscribe([&](const change<std::unique_ptr<int>>& c) { seen = c.before() == nullptr ? *c.after() : -1; });
    chart.set(std::make_unique<int>(7));
    CHECK(seen == 7);
}

TEST_CASE("setting, with subscribers, allocates nothing once warm") {
    state<int> a{"a", 0};
    state<int> b{"b", 0};
    heard h;
    int sum = 0;
    h.in.subscribe(a, [&](const change<int>& c) { sum += c.after(); });
    h.in.subscribe(b, [&](const change<int>& c) { sum += c.after(); });
    const auto set_both = [&](int to) {
        together([&] {
            a.set(to);
            b.set(to);
        });
    };
    set_both(1);
    set_both(2);
    const test::counted allocations;
    for (int i = 3; i < 100; ++i) {
        set_both(i);
        a.set(-i);
    }
    CHECK(allocations.since() == 0);
}

#if WIRED_COURIER_CHECKED
TEST_CASE("reading and setting on a foreign thread is reported") {
    state<int> a{"crates", 0};
    const test::fault_catcher faults;
    std::thread([&] {
        static_cast<void>(a.read());
        CHECK_FALSE(a.set(3));
    }).join();
    REQUIRE(faults.caught().size() == 2);
    CHECK(faults.caught()[0].code == courier::fault_code::wrong_thread);
    CHECK(test::contains(faults.caught()[0].text(), "state 'crates' belongs to "));
    CHECK(test::contains(faults.caught()[0].text(), " and is read by "));
    CHECK(test::contains(faults.caught()[1].text(), " and is set by "));
}
#endif

TEST_CASE("setting in a formula is reported") {
    state<int> a{"crates", 0};
    courier::formula<int> wrong{"wrong", [&] {
                                    a.set(3);
                                    return 1;
                                }};
    const test::fault_catcher faults;
    CHECK(wrong.read() == 1);
    CHECK(a.read() == 0);
    CHECK(faults.told_once({"[courier.set-in-formula]",
                            "state_test.cpp:", "state 'crates' is set by formula 'wrong', which is being computed"}));
}

// Lists and maps.

namespace {

using courier::announced_list;
using courier::announced_map;
using courier::item_change;
using courier::list_change;
using courier::map_change;

/// A copy that is kept the same by what is announced.
struct mirror {
    std::vector<std::string> copy;
    int told = 0;
    courier::subscriber in{"mirror"};

    void follow(const announced_list<std::string>& list) {
        in.subscribe(list,
                     [this](const list_change<std::string>& c) {
                         ++told;
                         const auto at = copy.begin() + static_cast<std::ptrdiff_t>(c.index());
                         if (c.what() == item_change::added) {
                             copy.insert(at, *c.after());
                         } else if (c.what() == item_change::removed) {
                             CHECK(*at == *c.before());
                             copy.erase(at);
                         } else {
                             CHECK(*at == *c.before());
                             *at = *c.after();
                         }
                     },
                     {.retained = true});
    }
};

} // namespace

TEST_CASE("a list announces items, so that who mirrors it has the same list") {
    announced_list<std::string> orders{"orders", {"oil", "rope"}};
    mirror m;
    m.follow(orders);
    CHECK(m.copy == orders.read());
    orders.add("salt");
    orders.insert(0, "tar");
    CHECK(orders.set(1, "lamp oil"));
    CHECK_FALSE(orders.set(1, "lamp oil"));
    CHECK_FALSE(orders.set(9, "nothing"));
    CHECK_FALSE(orders.remove(9));
    CHECK_FALSE(orders.insert(9, "nothing"));
    CHECK(orders.remove(2));
    CHECK(m.copy == std::vector<std::string>{"tar", "lamp oil", "salt"});
    CHECK(m.copy == orders.read());
    CHECK(m.told == 6);
    together([&] {
        orders.remove(0);
        orders.add("flour");
        orders.set(0, "oil");
        CHECK(m.told == 6);
    });
    CHECK(m.copy == orders.read());
    orders.clear();
    CHECK(m.copy.empty());
}

TEST_CASE("a map announces keys, once for several changes made together") {
    announced_map<int, std::string> berths{"berths", {{1, "Osprey"}}};
    std::string log;
    courier::subscriber in{"board"};
    in.subscribe(berths,
                 [&](const map_change<int, std::string>& c) {
                     log += std::to_string(c.key()) + (c.before() != nullptr ? *c.before() : "") + ">" +
                            (c.after() != nullptr ? *c.after() : "") + " ";
                     CHECK((c.what() == item_change::added) == (c.before() == nullptr));
                     CHECK((c.what() == item_change::removed) == (c.after() == nullptr));
                 },
                 {.retained = true});
    berths.set(3, "Tern");
    CHECK_FALSE(berths.set(3, "Tern"));
    berths.set(1, "Heron");
    CHECK(berths.remove(3));
    CHECK_FALSE(berths.remove(3));
    CHECK(log == "1>Osprey 3>Tern 1Osprey>Heron 3Tern> ");
    log.clear();
    together([&] {
        berths.set(5, "Gull");
        berths.set(1, "Tern");
        berths.set(5, "Auk");
        berths.set(2, "Owl");
        berths.remove(2);
        berths.set(1, "Heron");
    });
    CHECK(log == "5>Auk ");
    berths.clear();
    CHECK(log == "5>Auk 1Heron> 5Auk> ");
}

TEST_CASE("who reads one key of a map depends on that key only, who reads a list on all of it") {
    announced_map<int, int> crates{"crates"};
    announced_list<int> orders{"orders"};
    int runs = 0;
    int whole = 0;
    int listed = 0;
    courier::subscriber in{"refreshers"};
    in.keep_current([&] {
        ++runs;
        static_cast<void>(crates.read(3));
    });
    in.keep_current([&] { whole += static_cast<int>(crates.read().size()); });
    in.keep_current([&] { listed = static_cast<int>(orders.read().size()); });
    crates.set(1, 5);
    CHECK(runs == 1);
    CHECK(whole == 1);
    crates.set(3, 5);
    CHECK(runs == 2);
    together([&] {
        crates.set(3, 6);
        crates.set(3, 5);
    });
    CHECK(runs == 2);
    crates.remove(3);
    CHECK(runs == 3);
    orders.add(4);
    CHECK(listed == 1);
    in.clear();
    crates.set(3, 9);
    CHECK(runs == 3);
}

TEST_CASE("a state is added to and taken from") {
    courier::state<int> crates{"crates", 12};
    const courier::witness seen{crates};
    CHECK(crates.add(3));
    CHECK(crates.subtract(5));
    CHECK_FALSE(crates.add(0));
    CHECK(crates.glance() == 10);
    CHECK(seen.values() == std::vector{15, 10});
    CHECK(seen.latest() == 10);
    courier::state<std::string> cry{"cry", "ho"};
    cry.add("y");
    CHECK(cry.glance() == "hoy");
}
