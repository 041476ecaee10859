#include "support.hpp"

using courier::query;

namespace {

struct DepthAsked {
    using answer = int;
    int hour = 0;
};

struct TableAsked {
    using answer = std::string;
    static constexpr auto answered = courier::answering::in_order;
    int page = 0;
};

/// An answer that can be moved only.
struct ChartAsked {
    using answer = std::unique_ptr<int>;
};

constexpr courier::stage late = courier::after(courier::ordinary, "late");

} // namespace

TEST_CASE("a query is answered by its answerer, or not at all") {
    query<DepthAsked> depth{"tides.depth"};
    CHECK(depth.name() == "tides.depth");
    CHECK_FALSE(depth.ask({.hour = 1}).has_value());
    {
        const courier::subscription a = depth.answer([](const DepthAsked& q) { return q.hour * 2; });
        CHECK(depth.size() == 1);
        CHECK(depth.ask({.hour = 3}) == 6);
    }
    CHECK(depth.size() == 0);
    CHECK_FALSE(depth.ask({.hour = 3}).has_value());
    const courier::subscription unsure = depth.answer(
        [](const DepthAsked& q) -> std::optional<int> { return q.hour < 12 ? std::optional{1} : std::nullopt; });
    CHECK(depth.ask({.hour = 3}) == 1);
    CHECK_FALSE(depth.ask({.hour = 13}).has_value());
}

TEST_CASE("a second answerer is refused, with both places") {
    query<DepthAsked> depth{"tides.depth"};
    courier::subscriber office{"harbour office"};
    courier::subscriber disk{"disk"};
    const auto first = office.answer(depth, [] { return 1; });
    const test::fault_catcher faults;
    const auto second = disk.answer(depth, [] { return 2; });
    CHECK_FALSE(disk.live(second));
    REQUIRE(faults.caught().size() == 1);
    const courier::fault& f = faults.caught()[0];
    CHECK(courier::id_of(f.code) == "courier.second-answerer");
    CHECK(f.level == courier::severity::refused);
    CHECK(test::contains(f.text(), "second answerer refused"));
    CHECK(test::contains(f.text(), "by 'harbour office', from query_test.cpp:"));
    CHECK(depth.ask({}) == 1);
    office.end(first);
    CHECK(disk.live(disk.answer(depth, [] { return 2; })));
    CHECK(depth.ask({}) == 2);
}

TEST_CASE("of several answerers the first with an answer wins, and those behind are not asked") {
    query<TableAsked> table{"tides.table"};
    courier::subscriber shipped{"shipped"};
    courier::subscriber office{"office"};
    int asked_last = 0;
    shipped.answer(table,
                   [&](const TableAsked&) {
                       ++asked_last;
                       return std::string{"shipped"};
                   },
                   {.stage = late});
    office.answer(table, [](const TableAsked& q) -> std::optional<std::string> {
        return q.page == 1 ? std::optional<std::string>{"office"} : std::nullopt;
    });
    CHECK(table.ask({.page = 1}) == "office");
    CHECK(asked_last == 0);
    CHECK(table.ask({.page = 2}) == "shipped");
    CHECK(table.ask_all({.page = 1}) == std::vector<std::string>{"office", "shipped"});
    CHECK(table.ask_all({.page = 2}) == std::vector<std::string>{"shipped"});
    office.pause();
    CHECK(table.ask({.page = 1}) == "shipped");
    office.resume();
    shipped.clear();
    CHECK_FALSE(table.ask({.page = 2}).has_value());
}

TEST_CASE("a default answers when nobody else does, and comes back") {
    query<DepthAsked> depth{"tides.depth", 4};
    CHECK(depth.ask({}) == 4);
    CHECK(depth.size() == 0);
    {
        const courier::subscription a = depth.answer([] { return 9; });
        CHECK(a.live());
        CHECK(depth.ask({}) == 9);
        CHECK(depth.size() == 1);
    }
    CHECK(depth.ask({}) == 4);
    depth.set_default([](const DepthAsked& q) { return q.hour; });
    CHECK(depth.ask({.hour = 7}) == 7);

    query<TableAsked> table{"tides.table", "none"};
    const courier::subscription b = table.answer(
        [](const TableAsked& q) { return q.page == 1 ? std::optional<std::string>{"one"} : std::nullopt; });
    CHECK(table.ask({.page = 1}) == "one");
    CHECK(table.ask({.page = 2}) == "none");
    CHECK(table.ask_all({.page = 1}) == std::vector<std::string>{"one"});
    CHECK(table.ask_all({.page = 2}) == std::vector<std::string>{"none"});
}

TEST_CASE("delivery options hold for answerers") {
    query<TableAsked> table{"tides.table"};
    bool open = false;
    const courier::subscription a = table.answer(
        [] { return std::string{"gated"}; },
        {.times = 1, .condition = [](const TableAsked& q) { return q.page == 2; }, .during = [&open] { return open; }});
    CHECK_FALSE(table.ask({.page = 2}).has_value());
    open = true;
    CHECK_FALSE(table.ask({.page = 1}).has_value());
    CHECK(table.ask({.page = 2}) == "gated");
    CHECK_FALSE(table.ask({.page = 2}).has_value());
}

TEST_CASE("answers may be moved only, and answerers may keep state") {
    query<ChartAsked> chart{"chart"};
    const courier::subscription a = chart.answer([n = 0]() mutable { return std::make_unique<int>(++n); });
    CHECK(**chart.ask({}) == 1);
    CHECK(**chart.ask({}) == 2);
}

TEST_CASE("an answerer that throws leaves the question to the others") {
    query<TableAsked> table{"tides.table"};
    const courier::subscription bad = table.answer([]() -> std::string { throw std::runtime_error("wet"); });
    const courier::subscription good = table.answer([] { return std::string{"dry"}; });
    CHECK_THROWS_WITH((void)table.ask({}), "wet");
    query<DepthAsked> depth{"depth"};
    const courier::subscription only = depth.answer([]() -> int { throw std::runtime_error("wet"); });
    CHECK_THROWS_WITH((void)depth.ask({}), "wet");
}

TEST_CASE("a question asked of itself without end is refused") {
    query<DepthAsked> depth{"tides.depth"};
    int times = 0;
    const courier::subscription a = depth.answer([&](const DepthAsked& q) {
        ++times;
        return depth.ask(q).value_or(-1);
    });
    CHECK(depth.ask({}) == -1);
    CHECK(times == static_cast<int>(courier::depth_limit()));
}

TEST_CASE("an empty answerer is refused") {
    const test::fault_catcher faults;
    query<DepthAsked> depth{"tides.depth"};
    const courier::subscription a = depth.answer(std::function<int(const DepthAsked&)>{});
    CHECK_FALSE(a.live());
    CHECK(faults.told_once({"[courier.empty-handler]"}));
}
