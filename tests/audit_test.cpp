// Each rule of the audit, with what it must find and what it must leave.
#include "support.hpp"

using courier::channel;
using courier::finding_code;
using courier::ledger;
using test::Dawn;
using test::Moored;

namespace {

struct scene {
    ledger night{"ledger"};
    channel<Dawn> dawn{"dawn"};
    channel<Moored> moored{"moored"};
    courier::subscriber watch{"watch"};

    scene() { night.attach_everything(); }

    void frames(int count) {
        for (int i = 0; i < count; ++i) {
            night.end_frame();
        }
    }
    [[nodiscard]] courier::audit_report audit() const { return courier::audit(night.read()); }
    [[nodiscard]] courier::finding only(finding_code code) const {
        const courier::audit_report report = audit();
        INFO(report.text());
        REQUIRE(report.findings.size() == 1);
        REQUIRE(report.findings[0].code == code);
        REQUIRE_FALSE(report.findings[0].advice.empty());
        REQUIRE(test::contains(report.findings[0].where, "audit_test.cpp:"));
        return report.findings[0];
    }
};

courier::sequence<> wait_for_one(const channel<Moored>& of) {
    co_await courier::next(of);
}

} // namespace

TEST_CASE("audit of a ledger: what is used as it should be has no findings") {
    scene s;
    s.watch.subscribe(s.dawn, [] {});
    s.watch.subscribe(s.moored, [] {});
    s.dawn.publish();
    for (int i = 0; i < 200; ++i) {
        if (i % 3 == 0) {
            s.moored.publish({});
        }
        s.frames(1);
    }
    CHECK(s.audit().clean());
    CHECK(s.audit().text() == "no findings\n");
}

TEST_CASE("audit of a ledger: subscriptions that grow, by their line") {
    scene s;
    std::vector<courier::subscription> kept;
    for (int i = 0; i < 40; ++i) {
        kept.push_back(s.dawn.subscribe([] {}));
        s.frames(1);
    }
    s.dawn.publish();
    const courier::finding found = s.only(finding_code::growing);
    CHECK(test::contains(found.what, "40 are live, 40 were made"));
    CHECK(found.channel == "dawn");
}

TEST_CASE("audit of a ledger: many that come and go do not grow") {
    scene s;
    for (int i = 0; i < 300; ++i) {
        const courier::subscription once = s.dawn.subscribe([] {});
        s.dawn.publish();
        s.frames(3);
    }
    CHECK(s.audit().count(finding_code::growing) == 0);
}

TEST_CASE("audit of a ledger: a subscriber that outlives what it serves") {
    scene s;
    auto wreck = std::make_unique<channel<Dawn>>("wreck");
    courier::subscriber diver("diver");
    diver.subscribe(*wreck, [] {});
    wreck->publish();
    wreck.reset();
    CHECK(s.audit().count(finding_code::outlived) == 1);
    s.frames(5);
    CHECK(s.audit().clean()); // it may be about to go
    s.frames(20);
    const courier::finding found = s.only(finding_code::outlived);
    CHECK(found.party == "diver");
    CHECK(found.channel == "wreck");
}

TEST_CASE("audit of a ledger: handlers that are never served, and why") {
    scene s;
    s.watch.subscribe(s.moored, [] {});
    courier::subscriber paused("paused");
    paused.subscribe(s.moored, [] {});
    paused.pause();
    courier::subscriber asleep("asleep"); // of an object that is not in use
    asleep.follow(paused);
    asleep.subscribe(s.moored, [] {});
    for (int i = 0; i < 3; ++i) {
        s.moored.publish({});
    }
    const courier::finding found = s.only(finding_code::never_served);
    CHECK(found.what == "'paused' was never served on 'moored', though 3 were published since: paused 3 times");
}

TEST_CASE("audit of a ledger: channels that nobody hears, and that nobody publishes on") {
    scene s;
    s.dawn.publish();
    CHECK(s.only(finding_code::unheard).what == "'dawn' was published once and nobody ever heard it");
    s.watch.subscribe(s.dawn, [] {});
    s.dawn.publish();
    CHECK(s.audit().clean());
    s.watch.subscribe(s.moored, [] {});
    CHECK(s.only(finding_code::never_published).what == "'watch' listens to 'moored', on which nobody ever published");
}

TEST_CASE("audit of a ledger: payloads for an address at which nobody is") {
    scene s;
    courier::addressed_channel<Moored, int> hailed("hailed");
    s.watch.subscribe(hailed, [] {});
    hailed.publish_to(3, {});
    CHECK(s.only(finding_code::nobody_there).what ==
          "1 of 1 payloads on 'hailed' were for an address at which nobody was");
}

TEST_CASE("audit of a ledger: the same handler twice") {
    const test::fault_catcher faults; // checked builds say it at once
    scene s;
    for (int i = 0; i < 2; ++i) {
        s.watch.subscribe(s.dawn, [&s] { static_cast<void>(s); });
    }
    s.dawn.publish();
    CHECK(test::contains(s.only(finding_code::handler_twice).what, "'watch' has the same handler twice on 'dawn'"));
}

TEST_CASE("audit of a ledger: a hub's channel that could be local") {
    scene s;
    courier::hub reef("reef");
    s.watch.subscribe(reef.channel<Moored>(), [] {});
    reef.channel<Moored>().publish({});
    CHECK(test::contains(s.only(finding_code::could_be_local).what, "is in hub 'reef' with one publisher"));
    courier::subscriber other("other");
    other.subscribe(reef.channel<Moored>(), [] {});
    reef.channel<Moored>().publish({});
    CHECK(s.audit().clean());
}

TEST_CASE("audit of a ledger: what comes every frame") {
    scene s;
    s.watch.subscribe(s.dawn, [] {});
    for (int i = 0; i < 80; ++i) {
        s.dawn.publish();
        s.frames(1);
    }
    const courier::finding found = s.only(finding_code::every_frame);
    CHECK(found.what == "'dawn' was published in 80 of 80 frames, at most once a frame");
    CHECK(test::contains(found.advice, "courier::state"));
    s.frames(10);
    CHECK(s.audit().clean()); // it has stopped
}

TEST_CASE("audit of a ledger: handlers over their budget") {
    scene s;
    s.watch.subscribe(s.dawn, [] {
        const auto until = std::chrono::steady_clock::now() + std::chrono::milliseconds(2);
        while (std::chrono::steady_clock::now() < until) {}
    });
    for (int i = 0; i < 4; ++i) {
        s.dawn.publish();
    }
    CHECK(test::contains(s.only(finding_code::over_budget).what, "the handler of 'watch' on 'dawn' takes"));
    CHECK(courier::audit(s.night.read(), {.budget = std::chrono::seconds(10)}).clean());
}

TEST_CASE("audit of a ledger: events that go in a circle, also through an outbox") {
    scene s;
    courier::outbox later("later");
    s.watch.subscribe(s.dawn, [&] { later.post(s.moored, {}); });
    s.watch.subscribe(s.moored, [&] { s.dawn.publish(); });
    s.dawn.publish();
    for (int i = 0; i < 5; ++i) {
        later.deliver();
    }
    const courier::finding found = s.only(finding_code::circle);
    CHECK(test::contains(found.what, "events go in a circle: 'dawn' -> 'moored' -> 'dawn', 9 times, up to 5 times"));
}

TEST_CASE("audit of a ledger: sequences that wait for ever") {
    scene s;
    const auto story = [](const channel<Dawn>& source) -> courier::sequence<> { co_await courier::next(source); };
    courier::subscriber keeper("keeper");
    s.frames(5);
    keeper.start(story(s.dawn));
    CHECK(s.audit().clean());
    s.frames(70);
    const courier::audit_report report = s.audit();
    CHECK(report.count(finding_code::waits_for_ever) == 1);
    CHECK(test::contains(report.text(), "a sequence of 'keeper' waits for the next of 'dawn', on which nobody ever "
                                        "published"));
    auto wreck = std::make_unique<channel<Dawn>>("wreck");
    courier::subscriber diver("diver");
    diver.start(story(*wreck));
    wreck.reset();
    CHECK(s.audit().count(finding_code::waits_for_ever) == 2);
}

TEST_CASE("audit of a ledger: pairs of handlers whose order matters") {
    scene s;
    courier::subscriber tides("tides");
    courier::subscriber barge("barge");
    bool stops = true;
    // Those whose periods exclude one another never compete.
    s.watch.subscribe(s.moored, [] { return courier::verdict::stop; }, {.during = [] { return false; }});
    barge.subscribe(s.moored, [] {}, {.condition = [](const auto&) { return true; }, .during = [] { return false; }});
    tides.subscribe(s.moored, [&] { return stops ? courier::verdict::stop : courier::verdict::go_on; });
    barge.subscribe(s.moored, [&] { s.dawn.publish(); });
    s.watch.subscribe(s.dawn, [] {});
    stops = false;
    s.moored.publish({});
    stops = true;
    s.moored.publish({});
    const courier::finding found = s.only(finding_code::order_matters);
    CHECK(test::contains(found.what, "on 'moored' the order of 'tides' and 'barge' matters"));
    CHECK(test::contains(found.what, "the first stops what is for the second, once"));
}

TEST_CASE("audit of a shaken ledger: who tells of the same on the same channel") {
    scene s;
    courier::subscriber tides("tides");
    courier::subscriber barge("barge");
    tides.subscribe(s.moored, [&] { s.dawn.publish(); });
    barge.subscribe(s.moored, [&] { s.dawn.publish(); });
    s.watch.subscribe(s.dawn, [] {});
    s.moored.publish({});
    CHECK(s.audit().clean());
    s.night.shuffle_order(7);
    s.moored.publish({});
    CHECK(test::contains(s.only(finding_code::order_matters).what, "both publish on 'dawn', once"));
}

TEST_CASE("audit of a ledger: all that a subscriber owns can grow, and be left behind") {
    scene s;
    courier::outbox later("later");
    courier::timetable hours(later);
    courier::state<int> crates("crates", 0);
    courier::channel<Moored> relief("relief");
    struct owned {
        const char* kind;
        std::function<void(courier::subscriber&)> make;
    };
    const owned all[] = {
        {"timed calls", [&](courier::subscriber& who) { who.after(hours, std::chrono::hours(9), [] {}); }},
        {"refreshers", [&](courier::subscriber& who) { who.keep_current([&] { static_cast<void>(crates.read()); }); }},
        {"sequences", [&](courier::subscriber& who) { who.start(wait_for_one(relief)); }},
    };
    for (const owned& one : all) {
        CAPTURE(one.kind);
        courier::subscriber mate("forgetful mate");
        std::vector<courier::subscription_books> left;
        {
            const courier::ends_with_scope here(s.night, [&](const auto& found) { left = found; });
            one.make(mate);
        }
        REQUIRE_FALSE(left.empty()); // a sequence has its wait besides
        CHECK(left[0].channel == one.kind);
        CHECK(left[0].subscriber == "forgetful mate");
        CHECK(test::contains(left[0].where.file, "audit_test.cpp"));
    }
    courier::subscriber mate("forgetful mate");
    for (int frame = 0; frame < 128; ++frame) {
        all[0].make(mate);
        hours.advance(std::chrono::milliseconds(16));
        s.frames(1);
    }
    courier::subscriber painter("painter");
    painter.keep_current([] {});
    const std::string said = s.audit().text();
    CHECK_MESSAGE(test::contains(said, "timed calls of 'forgetful mate' grow: 128 are live"), said);
    CHECK_MESSAGE(test::contains(said, "a refresher of 'painter' ran and read no state"), said);
}

TEST_CASE("a scope under a ledger asserts that its subscriptions are gone") {
    scene s;
    std::vector<courier::subscription_books> left;
    std::optional<courier::subscription> forgotten;
    {
        const courier::ends_with_scope here(s.night, [&](const auto& all) { left = all; });
        s.watch.subscribe(s.dawn, [] {}, {.times = 1});
        s.dawn.publish();
    }
    CHECK(left.empty());
    {
        const courier::ends_with_scope here(s.night, [&](const auto& all) { left = all; });
        forgotten.emplace(s.moored.subscribe([] {}));
    }
    REQUIRE(left.size() == 1);
    CHECK(left[0].channel == "moored");
    const test::fault_catcher faults;
    {
        const courier::ends_with_scope here(s.night);
        s.watch.subscribe(s.moored, [] {});
    }
    CHECK(faults.told_once({"[courier.subscriptions-left]", "1 thing made in this scope did not end with it: "}));
}

TEST_CASE("audit of a ledger: what waits where nobody delivers or takes in") {
    scene s;
    courier::outbox later("later");
    courier::inbox arrivals(later, "arrivals");
    courier::inlet<Moored> letters(arrivals, s.moored);
    s.watch.subscribe(s.dawn, [] {});
    s.watch.subscribe(s.moored, [] {});
    s.dawn.publish();
    s.moored.publish({});
    SUBCASE("an outbox") {
        later.post(s.moored, {.boat = 1});
        CHECK(test::contains(s.only(finding_code::left_waiting).what,
                             "1 payload waits in outbox 'later', and deliver() is not called"));
        later.deliver();
        CHECK(s.audit().clean());
        s.frames(100);
        later.post(s.moored, {.boat = 1});
        s.frames(59);
        CHECK(s.audit().clean());
        s.frames(1);
        CHECK(s.only(finding_code::left_waiting).since_frame == 100);
    }
    SUBCASE("an inbox") {
        letters.send({.boat = 1});
        letters.send({.boat = 2});
        const courier::audit_report report = s.audit();
        REQUIRE(report.count(finding_code::left_waiting) == 1);
        CHECK(test::contains(report.findings[0].what,
                             "2 payloads wait in inbox 'arrivals', and take_in() is not called"));
        arrivals.take_in();
        later.deliver();
        CHECK(s.audit().clean());
    }
}

TEST_CASE("audit of a ledger: reports that a tally does not expect") {
    scene s;
    courier::tally<int> ready{"crew.ready", {1, 2}};
    ready.report(1);
    CHECK(s.audit().clean());
    ready.report(7);
    CHECK(test::contains(s.only(finding_code::unexpected).what, "'crew.ready' was once given the report of somebody"));
    s.watch.subscribe(ready.unexpected(), [] {});
    ready.report(7);
    CHECK(s.audit().clean());
}
