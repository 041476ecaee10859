#include "support.hpp"

using courier::channel;
using test::Moored;

namespace {

constexpr courier::stage early = courier::before(courier::ordinary, "early");
constexpr courier::stage late = courier::after(courier::ordinary, "late");

std::vector<Moored> boats(int count) {
    std::vector<Moored> all;
    for (int i = 1; i <= count; ++i) {
        all.push_back({.boat = i, .cargo = 10 * i});
    }
    return all;
}

/// Notes what comes, as "[1 2 3]" for a span and "1" for a single payload.
struct scene {
    channel<Moored> moored{"moored"};
    courier::subscriber in{"logbook"};
    std::string log;

    auto spans() {
        return [this](std::span<const Moored> all) {
            log += "[";
            for (const Moored& m : all) {
                log += (&m == all.data() ? "" : " ") + std::to_string(m.boat);
            }
            log += "]";
        };
    }
    auto singles() {
        return [this](const Moored& m) { log += std::to_string(m.boat) + " "; };
    }
    courier::receipt publish(int count) { return moored.publish_all(boats(count)); }
};

} // namespace

TEST_CASE("a handler that takes a span gets what is published together in one piece, and one as a span of one") {
    scene s;
    const std::vector<Moored> all = boats(3);
    const Moored* seen = nullptr;
    s.in.subscribe(s.moored, [&](std::span<const Moored> m) { seen = m.data(); });
    s.in.subscribe(s.moored, s.spans());
    CHECK(s.moored.publish_all(all).served() == 6);
    CHECK(seen == all.data()); // no copy
    CHECK(s.moored.publish({.boat = 7}).served() == 2);
    CHECK(s.log == "[1 2 3][7]");
    CHECK(s.moored.publish_all({}).served() == 0);
    CHECK(s.log == "[1 2 3][7]");
}

TEST_CASE("handlers of single payloads are served first, as if each had been published") {
    scene s;
    s.in.subscribe(s.moored, s.spans(), {.stage = early});
    s.in.subscribe(s.moored, s.singles());
    s.in.subscribe(s.moored, [&s] { s.log += "| "; }, {.stage = late});
    s.in.subscribe(s.moored, s.spans());
    CHECK(s.publish(2).served() == 8);
    CHECK(s.log == "1 | 2 | [1 2][1 2]");
    s.log.clear();
    s.moored.publish({.boat = 5});
    CHECK(s.log == "[5]5 [5]| "); // alone, in the order of all
}

TEST_CASE("what a verdict stops does not reach spans behind it") {
    scene s;
    s.in.subscribe(s.moored, s.spans(), {.stage = early});
    s.in.subscribe(s.moored, [](const Moored& m) {
        return m.boat % 3 == 0   ? courier::verdict::stop
               : m.boat % 3 == 1 ? courier::verdict::finish_stage
                                 : courier::verdict::go_on;
    });
    s.in.subscribe(s.moored, s.spans());
    s.in.subscribe(s.moored, s.spans(), {.stage = late});
    CHECK(s.publish(6).stopped());
    CHECK(s.log == "[1 2 3 4 5 6][1 2][4 5][2][5]");
}

TEST_CASE("delivery options hold for spans") {
    scene s;
    s.in.subscribe(s.moored, s.spans(), {.condition = [](const Moored& m) { return m.boat != 3; }});
    s.in.subscribe(s.moored, s.spans(), {.times = 2});
    bool open = false;
    s.in.subscribe(s.moored, s.spans(), {.during = [&open] { return open; }});
    CHECK(s.publish(4).served() == 7);
    CHECK(s.log == "[1 2][4][1 2 3 4]");
    s.log.clear();
    open = true;
    s.publish(1);
    CHECK(s.log == "[1][1][1]");
    CHECK(s.in.size() == 2);
}

TEST_CASE("batches nest, and publishing one of their payloads again is a publish of its own") {
    scene s;
    const std::vector<Moored> inner{{.boat = 8}, {.boat = 9}};
    s.in.subscribe(s.moored, [&](const Moored& m) {
        if (m.boat == 1) {
            s.moored.publish_all(inner);
        } else if (m.boat == 2) {
            Moored copy = m;
            copy.boat = 7;
            s.moored.publish(copy);
        } else if (m.boat == 3 && m.cargo == 30) {
            static bool once = true;
            if (std::exchange(once, false)) {
                s.moored.publish(m); // the same object
            }
        }
    });
    s.in.subscribe(s.moored, s.spans());
    CHECK(s.publish(3).served() == 6);
    CHECK(s.log == "[8 9][7][3][1 2 3]");
}

TEST_CASE("a handler that takes a span may begin a batch in which payloads are stopped") {
    scene s;
    bool once = true;
    s.in.subscribe(s.moored,
                   [](const Moored& m) { return m.boat % 2 == 0 ? courier::verdict::stop : courier::verdict::go_on; });
    s.in.subscribe(s.moored, [&](std::span<const Moored> all) {
        if (std::exchange(once, false)) {
            s.moored.publish_all(boats(200)); // many marks, which may move those of the outer batch
        }
        s.log += std::to_string(all.front().boat) + " ";
    });
    s.publish(6);
    CHECK(test::contains(s.log, "197 199 1 3 5 "));
}

TEST_CASE("the channel may end in the middle of a batch") {
    auto moored = std::make_unique<channel<Moored>>("moored");
    const courier::publisher<Moored> out{*moored};
    int served = 0;
    courier::subscriber in;
    in.subscribe(*moored, [&](const Moored& m) {
        ++served;
        if (m.boat == 2) {
            moored.reset();
        }
    });
    in.subscribe(*moored, [&](std::span<const Moored>) { ++served; });
    CHECK(out.publish_all(boats(3)).closed());
    CHECK(served == 2);
    CHECK(out.publish_all(boats(3)).closed());
    moored = std::make_unique<channel<Moored>>("moored");
    in.subscribe(*moored, [&](std::span<const Moored>) { moored.reset(); });
    in.subscribe(*moored, [&](std::span<const Moored>) { ++served; });
    CHECK(moored->publish_all(boats(3)).closed());
    CHECK(served == 2);
}

TEST_CASE("a member function may take a span, and an address reaches it") {
    struct board {
        std::size_t most = 0;
        void on_moored(std::span<const Moored> all) { most = std::max(most, all.size()); }
    } b;
    courier::addressed_channel<Moored, int> moored{"moored"};
    courier::subscriber in{"board"};
    in.subscribe<&board::on_moored>(moored.at(3), b);
    CHECK(moored.publish_to(3, {}).served() == 1);
    CHECK(b.most == 1);
    CHECK(moored.publish_all(boats(5)).served() == 5);
    CHECK(b.most == 5);
}
