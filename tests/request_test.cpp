// Questions whose answers come later.
#include "sequence_scene.hpp"

using namespace std::chrono_literals;

namespace asking {

struct PathAsked {
    using answer = std::string;
    int to;
};

} // namespace asking

using asking::PathAsked;

namespace {

using paths_channel = courier::channel<courier::request<PathAsked>>;

/// Keeps every reply until it is told.
struct finder {
    explicit finder(paths_channel& paths) {
        in.subscribe(paths, [this](const courier::request<PathAsked>& r) { open[r.question().to] = r.take(); });
    }
    std::map<int, courier::reply<std::string>> open;
    courier::subscriber in{"path finder"};
};

courier::sequence<> walk(test::scene& s, paths_channel& paths, int to) {
    const test::mark gone{s, "x" + std::to_string(to)};
    try {
        const std::optional<std::string> path = co_await courier::ask(paths, {.to = to});
        s.note(std::to_string(to) + ":" + path.value_or("none"));
    } catch (const std::runtime_error& error) {
        s.note(std::to_string(to) + "!" + error.what());
    }
}

courier::sequence<> walk_soon(test::scene& s, paths_channel& paths) {
    const auto both = co_await courier::when_all(courier::within(s.hours, 1s, courier::ask(paths, {.to = 1})),
                                                 courier::within(s.hours, 1s, courier::ask(paths, {.to = 2})));
    s.note(std::get<0>(both) ? **std::get<0>(both) : "late");
    s.note(std::get<1>(both) ? **std::get<1>(both) : "late");
    const std::optional<std::string> found =
        co_await courier::or_else(courier::ask(paths, {.to = 3}), [&paths] { return courier::ask(paths, {.to = 4}); });
    s.note(found.value_or("nowhere"));
}

} // namespace

TEST_CASE("a request is answered at once, later, not at all, or with a reason, each question on its own") {
    test::scene s;
    auto paths = std::make_unique<paths_channel>("paths.asked");
    s.in->start(walk(s, *paths, 1));
    CHECK(s.taken() == "1:none x1 "); // nobody is there
    {
        const courier::subscription at_once =
            paths->subscribe([](const courier::request<PathAsked>& r) { r.take().give("gate"); }, {.times = 1});
        s.in->start(walk(s, *paths, 2));
        CHECK(s.taken() == "2:gate x2 ");
    }
    finder find{*paths};
    bool was_taken = false;
    const courier::subscription second =
        paths->subscribe([&](const courier::request<PathAsked>& r) { was_taken = r.taken() && !r.take().wanted(); });
    for (int to = 3; to <= 6; ++to) {
        s.in->start(walk(s, *paths, to));
    }
    CHECK(was_taken);
    CHECK(s.taken().empty());
    CHECK(courier::list_sequences().front().waits_for == "an answer from 'paths.asked'");
    CHECK(find.open[5].give("mole"));
    CHECK_FALSE(find.open[5].wanted());
    CHECK_FALSE(find.open[5].give("mole again"));
    CHECK(find.open[4].fail(std::make_exception_ptr(std::runtime_error("flooded"))));
    find.open.erase(3);
    paths.reset(); // who has a reply may still answer
    CHECK(find.open[6].decline());
    CHECK(s.taken() == "5:mole x5 4!flooded x4 3:none x3 6:none x6 ");
}

TEST_CASE("a request is let go when its asker ends, and waits while that is paused") {
    test::scene s;
    paths_channel paths{"paths.asked"};
    finder find{paths};
    s.in->start(walk(s, paths, 1));
    s.in->pause();
    CHECK(find.open[1].give("gate"));
    CHECK(s.taken().empty());
    s.in->resume();
    CHECK(s.taken() == "1:gate x1 ");
    s.in->start(walk(s, paths, 2));
    CHECK(find.open[2].wanted());
    s.in.reset();
    CHECK(s.taken() == "x2 ");
    CHECK_FALSE(find.open[2].wanted());
    CHECK_FALSE(find.open[2].give("gate"));
}

TEST_CASE("requests have time limits and fallbacks as other waits have") {
    test::scene s;
    paths_channel paths{"paths.asked"};
    finder find{paths};
    s.in->start(walk_soon(s, paths));
    find.open[2].give("mole");
    CHECK(s.taken().empty());
    s.pass(1s);
    CHECK(s.taken() == "late mole ");
    CHECK_FALSE(find.open[1].wanted());
    find.open[3].decline();
    find.open[4].give("steps");
    CHECK(s.taken() == "steps ");
}

TEST_CASE("requests travel through the channels of a hub") {
    test::scene s;
    courier::hub reef{"reef"};
    finder find{reef.channel<courier::request<PathAsked>>()};
    s.in->start(walk(s, reef.channel<courier::request<PathAsked>>(), 7));
    find.open[7].give("lamp");
    CHECK(s.taken() == "7:lamp x7 ");
}
