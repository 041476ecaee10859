#include "support.hpp"

using courier::report_mark;
using courier::tally;
using courier::tally_change;

TEST_CASE("a tally counts reports and announces completion once") {
    tally<int> ready{"crew.ready", {1, 2, 3}};
    const courier::witness progress{ready.progress()};
    const courier::witness completed{ready.completed()};
    CHECK(ready.report(2) == report_mark::counted);
    CHECK(ready.report(2) == report_mark::again);
    CHECK(ready.report(9) == report_mark::unexpected);
    CHECK(progress.count() == 1);
    CHECK(progress.latest().member == 2);
    CHECK(progress.latest().change == tally_change::reported);
    CHECK(progress.latest().reported == 1);
    CHECK(progress.latest().expected == 3);
    CHECK(ready.missing() == std::vector<int>{1, 3});
    CHECK(ready.has_reported(2));
    ready.report(1);
    CHECK_FALSE(ready.complete());
    ready.report(3);
    CHECK(ready.complete());
    CHECK(completed.count() == 1);
    CHECK(completed.latest().reported == 3);
    CHECK(completed.latest().round == 1);
    ready.report(3);
    CHECK(completed.count() == 1);
}

TEST_CASE("a tally begins anew") {
    tally<int> ready{"crew.ready", {1, 2}};
    const courier::witness completed{ready.completed()};
    const courier::witness one{ready.at_least(1)};
    ready.report(1);
    ready.report(2);
    ready.reset();
    CHECK(ready.reported() == 0);
    CHECK(ready.round() == 2);
    CHECK(ready.missing().size() == 2);
    ready.report(2);
    ready.report(1);
    CHECK(completed.count() == 2);
    CHECK(completed.latest().round == 2);
    CHECK(one.count() == 2);
}

TEST_CASE("thresholds are announced once a round, the lowest first, before completion") {
    tally<int> ready{"crew.ready", {1, 2, 3, 4, 5}};
    std::vector<std::string> order;
    courier::subscriber in{"board"};
    in.subscribe(ready.completed(), [&] { order.emplace_back("all"); });
    in.subscribe(ready.at_least(3), [&](const courier::tally_reached& r) {
        order.push_back(std::to_string(r.reported) + " of " + std::to_string(r.expected));
    });
    in.subscribe(ready.at_least(1), [&] { order.emplace_back("one"); });
    in.subscribe(ready.at_least(5), [&] { order.emplace_back("five"); });
    in.subscribe(ready.at_least(6), [&] { order.emplace_back("never"); });
    for (int i = 1; i <= 5; ++i) {
        ready.report(i);
    }
    CHECK(order == std::vector<std::string>{"one", "3 of 5", "five", "all"});
    in.subscribe(ready.at_least(2), [&] { order.emplace_back("two"); }); // too late for this round
    CHECK(order.size() == 4);
}

TEST_CASE("a member that disappears is not waited for, and one that joins is") {
    tally<int> ready{"crew.ready", {1, 2, 3}, {.counts_leavers = false}};
    const courier::witness completed{ready.completed()};
    const courier::witness progress{ready.progress()};
    ready.report(1);
    CHECK(ready.expect(4));
    CHECK_FALSE(ready.expect(4));
    CHECK(progress.latest().change == tally_change::expected);
    CHECK(progress.latest().expected == 4);
    ready.report(2);
    CHECK(ready.withdraw(3));
    CHECK_FALSE(ready.withdraw(3));
    CHECK(completed.empty());
    CHECK(ready.withdraw(4));
    CHECK(progress.latest().change == tally_change::withdrawn);
    CHECK(completed.count() == 1);
    CHECK(completed.latest().reported == 2);
    ready.withdraw(1); // its report goes with it
    CHECK(ready.reported() == 1);
    CHECK(completed.count() == 1);

    tally<int> nobody{"nobody", {1}};
    const courier::witness never{nobody.completed()};
    nobody.withdraw(1);
    CHECK(never.empty());
}

TEST_CASE("a tally follows a group and takes its reports from channels") {
    struct StoodTo {
        int hand;
    };
    auto crew = std::make_unique<courier::group<int>>("crew");
    courier::channel<StoodTo> stood_to{"stood_to"};
    courier::addressed_channel<StoodTo, int> signalled{"signalled"};
    auto one = std::make_optional(crew->join(1));
    tally<int> ready{"crew.ready"};
    ready.expect_group(*crew);
    ready.reports_from(stood_to, &StoodTo::hand);
    ready.reports_from(signalled.at(7), [](const StoodTo& s) { return s.hand; });
    const courier::membership<int> two = crew->join(2);
    auto three = std::make_optional(crew->join(3));
    const courier::witness completed{ready.completed()};
    CHECK(ready.expected() == 3);
    stood_to.publish({1});
    signalled.publish_to(7, {2});
    CHECK(completed.empty());
    three.reset(); // overboard
    CHECK(completed.count() == 1);
    crew.reset();
    CHECK(ready.expected() == 2);
    one.reset();
    CHECK(ready.expected() == 2);
}

TEST_CASE("a listener that throws keeps no announcement from the others") {
    tally<int> ready{"ready", {1}};
    const courier::subscription s = ready.progress().subscribe([] { throw std::runtime_error("deaf"); });
    const courier::witness completed{ready.completed()};
    CHECK_THROWS_WITH(ready.report(1), "deaf");
    CHECK(completed.count() == 1);
}

namespace {

struct Collected {
    int crate = 0;
};

/// Nine crates: each is collected, reported, and taken out of its group.
struct collecting {
    courier::channel<Collected> collected{"crates.collected"};
    courier::group<int> crates{"crates"};
    std::vector<courier::membership<int>> on_deck;
    courier::subscriber in{"manager"};
    tally<int> all;
    courier::witness<courier::tally_progress<int>> progress{all.progress()};
    courier::witness<courier::tally_completed> completed{all.completed()};

    collecting(bool removal_first, courier::tally_options options) : all("crates.all", {}, options) {
        for (int i = 0; i < 9; ++i) {
            on_deck.push_back(crates.join(i));
        }
        all.expect_group(crates);
        progress.clear();
        const auto remove = [this] {
            in.subscribe(collected, [this](const Collected& c) { on_deck[static_cast<std::size_t>(c.crate)].end(); });
        };
        if (removal_first) {
            remove();
        }
        all.reports_from(collected, &Collected::crate);
        if (!removal_first) {
            remove();
        }
    }
};

} // namespace

TEST_CASE("a tally of what is collected and removed is right in whatever order its lines stand") {
    for (const bool removal_first : {false, true}) {
        for (const bool counts_leavers : {true, false}) {
            CAPTURE(removal_first);
            CAPTURE(counts_leavers);
            collecting c(removal_first, {.counts_leavers = counts_leavers});
            c.collected.publish({.crate = 4});
            CHECK(c.progress.payloads().front().reported == 1);
            CHECK(c.progress.payloads().front().expected == 9);
            CHECK(c.progress.latest().reported == (counts_leavers ? 1 : 0));
            CHECK(c.progress.latest().expected == (counts_leavers ? 9 : 8));
            CHECK_FALSE(c.crates.has(4));
            for (int i = 0; i < 9; ++i) {
                c.collected.publish({.crate = i});
            }
            CHECK(c.completed.count() == 1);
            CHECK(c.completed.latest().reported == (counts_leavers ? 9 : 1));
            CHECK(c.all.unexpected_reports() == (counts_leavers ? 0 : 1)); // the fourth came twice
        }
    }
}

TEST_CASE("who leaves without a report is not waited for, whoever counts") {
    tally<int> ready{"crew.ready", {1, 2, 3}};
    const courier::witness completed{ready.completed()};
    ready.report(1);
    CHECK(ready.withdraw(1));
    CHECK_FALSE(ready.withdraw(1));
    CHECK(ready.has_reported(1));
    CHECK(ready.expected() == 3);
    CHECK(ready.withdraw(2));
    CHECK(ready.expected() == 2);
    CHECK(ready.expect(1)); // back again, and counted already
    CHECK(ready.report(1) == report_mark::again);
    CHECK(ready.missing() == std::vector<int>{3});
    ready.report(3);
    CHECK(completed.count() == 1);
    ready.withdraw(1);
    ready.reset();
    CHECK(ready.expected() == 1); // who left is forgotten with the round
    CHECK_FALSE(ready.has_reported(1));
}

TEST_CASE("who leaves in a handler and joins again is a new member") {
    courier::channel<test::Dawn> dawn{"dawn"};
    tally<int> ready{"crew.ready", {1, 2}};
    courier::subscriber in{"mate"};
    ready.report(1);
    in.subscribe(dawn, [&] {
        CHECK(ready.withdraw(1));
        CHECK_FALSE(ready.withdraw(1));
        CHECK(ready.expected() == 2); // until the event is over
        CHECK(ready.expect(1));
    });
    dawn.publish();
    CHECK(ready.expected() == 2);
    CHECK(ready.has_reported(1)); // it had, and leavers count
}

TEST_CASE("reports of those who are not expected are told and counted") {
    tally<int> ready{"crew.ready", {1}};
    const courier::witness unexpected{ready.unexpected()};
    CHECK(ready.report(7) == report_mark::unexpected);
    CHECK(unexpected.latest().member == 7);
    CHECK(ready.unexpected_reports() == 1);
}

TEST_CASE("a tally takes the address of a payload as the member") {
    struct StoodTo {};
    courier::addressed_channel<StoodTo, int> stood_to{"crew.stood_to"};
    tally<int> ready{"crew.ready", {1, 2}};
    ready.reports_from(stood_to, [](int hand, const StoodTo&) { return hand; });
    stood_to.publish_to(2, {});
    CHECK(ready.has_reported(2));
    CHECK_FALSE(ready.has_reported(1));
}
