#include "allocations.hpp"
#include "support.hpp"

using courier::change;
using courier::formula;
using courier::state;
using courier::together;

TEST_CASE("a formula is computed when it is read, and again only when something it read has changed") {
    state<int> size{"size", 20};
    state<int> crates{"crates", 12};
    formula<int> room{"room", [&] { return size.read() - crates.read(); }};
    CHECK(room.runs() == 0);
    CHECK(room.read() == 8);
    CHECK(room.read() == 8);
    CHECK(room.runs() == 1);
    crates.set(10);
    size.set(18);
    CHECK(room.runs() == 1);
    CHECK(room.glance() == 8);
    CHECK(room.runs() == 2);
}

TEST_CASE("what comes out the same is no change for who depends on it") {
    state<int> water{"water", 3};
    formula<bool> sinking{"sinking", [&] { return water.read() > 10; }};
    formula<std::string> text{"text", [&] { return std::string{sinking.read() ? "sinking" : "afloat"}; }};
    int runs = 0;
    courier::subscriber in{"board"};
    in.keep_current([&] {
        ++runs;
        static_cast<void>(text.read());
    });
    water.set(4);
    water.set(9);
    CHECK(runs == 1);
    CHECK(text.runs() == 1);
    CHECK(sinking.runs() == 3);
    water.set(11);
    CHECK(runs == 2);
}

TEST_CASE("a formula that needs itself is reported with the way around") {
    formula<int>* way_back = nullptr;
    formula<int> a{"a", [&] { return way_back->read() + 1; }};
    formula<int> b{"b", [&] { return a.read() + 1; }};
    formula<int> c{"c", [&] { return b.read() + 1; }};
    way_back = &c;
    CHECK_THROWS_WITH_AS(static_cast<void>(c.read()),
                         "formula 'c' needs its own value: formula 'c' -> formula 'b' -> formula 'a' -> formula "
                         "'c'; break the circle, or read one of them with glance() [courier.formula-circle]",
                         courier::fault_error);
    const test::fault_catcher goes_on;
    formula<int>* itself = nullptr;
    formula<int> d{"d", [&] { return itself->read() + 1; }};
    itself = &d;
    CHECK(d.read() == 1);
    CHECK(goes_on.caught().size() == 1);
}

TEST_CASE("ways that change their direction are no circle") {
    state<bool> forth{"forth", true};
    formula<int>* other = nullptr;
    formula<int> a{"a", [&] { return forth.read() ? 1 : other->read() + 1; }};
    formula<int> b{"b", [&] { return forth.read() ? a.read() + 1 : 5; }};
    other = &b;
    std::string log;
    courier::subscriber in{"board"};
    in.keep_current([&] { log += std::to_string(a.read()) + std::to_string(b.read()) + " "; });
    forth.set(false);
    forth.set(true);
    CHECK(log == "12 65 12 ");
}

TEST_CASE("a formula may read one that has read it the last time, and is being looked at") {
    state<bool> forth{"forth", true};
    formula<int>* other = nullptr;
    formula<int> a{"a", [&] { return forth.read() ? 1 : other->read() + 1; }};
    formula<int> b{"b", [&] { return forth.glance() ? a.read() + 1 : 5; }}; // depends on a only
    other = &b;
    std::string log;
    courier::subscriber in{"board"};
    in.keep_current([&] { log += std::to_string(b.read()) + " "; });
    forth.set(false);
    CHECK(a.read() == 6);
    CHECK(log == "2 5 ");
}

TEST_CASE("a refresher may set what it reads: it is run again when it has returned, never within itself") {
    state<int> a{"a", 0};
    courier::outbox later{"later"};
    int inside = 0;
    int runs = 0;
    const auto refresher = [&] {
        CHECK(++inside == 1);
        ++runs;
        if (a.read() % 5 != 0) {
            a.set(a.glance() + 1);
        }
        --inside;
    };
    a.set(2);
    courier::subscriber in{"board"};
    in.keep_current(refresher);
    CHECK(a.read() == 5);
    CHECK(runs == 4);
    a.set(6);
    CHECK(a.read() == 10);
    in.clear();
    in.keep_current(later, refresher);
    a.set(12);
    later.deliver();
    CHECK(a.read() == 13); // once a round
    later.deliver_until_quiet();
    CHECK(a.read() == 15);
}

TEST_CASE("what a formula throws, its readers get, until something that it read changes") {
    state<int> berth{"berth", 0};
    formula<int> boat{"boat", [&] {
                          if (berth.read() == 0) {
                              throw std::runtime_error("no berth");
                          }
                          return berth.read();
                      }};
    CHECK_THROWS_WITH(static_cast<void>(boat.read()), "no berth");
    CHECK_THROWS_WITH(static_cast<void>(boat.read()), "no berth");
    CHECK(boat.runs() == 1);
    std::string log;
    courier::subscriber in{"board"};
    in.keep_current([&] {
        try {
            log += std::to_string(boat.read()) + " ";
        } catch (const std::runtime_error& error) {
            log += std::string{error.what()} + " ";
        }
    });
    berth.set(3);
    berth.set(0);
    berth.set(3);
    CHECK(log == "no berth 3 no berth 3 ");
}

TEST_CASE("a refresher that throws keeps nothing from being run, and runs again") {
    state<int> a{"a", 0};
    std::string log;
    courier::subscriber in{"board"};
    in.keep_current([&] {
        if (a.read() == 1) {
            throw std::runtime_error("squall");
        }
        log += "first ";
    });
    in.keep_current([&] { log += "second" + std::to_string(a.read()) + " "; });
    CHECK_THROWS_WITH(a.set(1), "squall");
    a.set(2);
    CHECK(log == "first second0 second1 first second2 ");
}

TEST_CASE("refreshers end and pause with their subscriber, and may end anything while they run") {
    state<int> a{"a", 0};
    auto in = std::make_unique<courier::subscriber>("board");
    std::string log;
    in->keep_current([&] { log += "x" + std::to_string(a.read()) + " "; });
    const courier::subscription_key key = in->keep_current([&] { log += "y" + std::to_string(a.read()) + " "; });
    CHECK(in->size() == 2);
    in->pause();
    a.set(1);
    a.set(2);
    CHECK(log == "x0 y0 ");
    in->resume(); // what has become stale is run
    CHECK(log == "x0 y0 x2 y2 ");
    in->pause();
    in->resume(); // nothing has
    CHECK(log == "x0 y0 x2 y2 ");
    CHECK(in->end(key));
    in->keep_current([&] {
        if (a.read() == 3) {
            in.reset();
        }
    });
    in->keep_current([&] { log += "z" + std::to_string(a.read()) + " "; });
    a.set(3);
    CHECK(in == nullptr);
    CHECK(log == "x0 y0 x2 y2 z2 x3 "); // z had ended when it would have been its turn
    a.set(4);
    CHECK(log == "x0 y0 x2 y2 z2 x3 ");
    CHECK(courier::list_refreshers().empty());
}

TEST_CASE("a refresher that is kept through an outbox is run once a round") {
    courier::outbox later{"later"};
    std::vector<std::unique_ptr<state<int>>> values;
    for (int i = 0; i < 10; ++i) {
        values.push_back(std::make_unique<state<int>>("value", 1));
    }
    int runs = 0;
    int sum = 0;
    auto in = std::make_unique<courier::subscriber>("label");
    in->keep_current(later, [&] {
        ++runs;
        sum = 0;
        for (const auto& value : values) {
            sum += value->read();
        }
    });
    CHECK(runs == 1);
    for (const auto& value : values) {
        value->set(2);
        value->set(3);
    }
    CHECK(runs == 1);
    later.deliver();
    CHECK(runs == 2);
    CHECK(sum == 30);
    later.deliver();
    CHECK(runs == 2);
    values[0]->set(9);
    in.reset(); // before its turn
    later.deliver();
    CHECK(runs == 2);

    courier::subscriber other{"other"};
    auto gone = std::make_unique<courier::outbox>("gone");
    other.keep_current(*gone, [&] { runs += values[1]->read(); });
    values[1]->set(4);
    gone.reset();
    values[1]->set(5);
    CHECK(runs == 5); // two, and three from the first run of this one
}

TEST_CASE("a chain as long as one likes takes no stack, and nothing is allocated once warm") {
    constexpr int length = 100000;
    state<int> first{"first", 0};
    std::vector<std::unique_ptr<formula<int>>> chain;
    chain.push_back(std::make_unique<formula<int>>("0", [&] { return first.read(); }));
    for (int i = 1; i < length; ++i) {
        const formula<int>& before = *chain.back();
        chain.push_back(std::make_unique<formula<int>>("n", [&before] { return before.read() + 1; }));
        static_cast<void>(chain.back()->read());
    }
    int shown = 0;
    courier::subscriber in{"board"};
    in.keep_current([&] { shown = chain.back()->read(); });
    first.set(1);
    first.set(2);
    const test::counted allocations;
    first.set(3);
    CHECK(shown == length + 2);
    CHECK(allocations.since() == 0);
    CHECK(chain.back()->runs() == 4);
}

TEST_CASE("in a diamond of width 1000 every formula is computed exactly once for a change") {
    state<int> top{"top", 0};
    std::vector<std::unique_ptr<formula<int>>> middle;
    for (int i = 0; i < 1000; ++i) {
        middle.push_back(std::make_unique<formula<int>>("middle", [&top, i] { return top.read() + i; }));
    }
    formula<int> bottom{"bottom", [&] {
                            int sum = 0;
                            for (const auto& m : middle) {
                                sum += m->read();
                            }
                            return sum;
                        }};
    int told = 0;
    const courier::subscription kept = bottom.subscribe([&](const change<int>&) { ++told; });
    for (int i = 1; i <= 5; ++i) {
        top.set(i);
        CHECK(bottom.runs() == static_cast<std::uint64_t>(i) + 1);
        for (const auto& m : middle) {
            REQUIRE(m->runs() == static_cast<std::uint64_t>(i) + 1);
        }
    }
    CHECK(told == 5);
}
