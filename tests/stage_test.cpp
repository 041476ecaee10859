#include "support.hpp"

#include <courier/channel.hpp>
#include <courier/stage.hpp>
#include <courier/subscriber.hpp>
#include <courier/verdict.hpp>

#include <doctest/doctest.h>

#include <memory>

using courier::channel;
using courier::subscriber;
using courier::subscription;
using courier::verdict;
using test::Dawn;

namespace {

constexpr courier::stage rules = courier::before(courier::ordinary, "rules");
constexpr courier::stage presentation = courier::after(courier::ordinary, "presentation");
constexpr courier::stage checks = courier::between(rules, courier::ordinary, "checks");

static_assert(rules < checks && checks < courier::ordinary && courier::ordinary < presentation);
static_assert(rules.name() == "rules");

} // namespace

TEST_CASE("contract 1: stages first, then order of subscription") {
    channel<Dawn> dawn{"watch.dawn"};
    test::trace heard;
    const auto note = [&](int n) { return [&heard, n] { heard.push_back(n); }; };
    const subscription all[] = {
        dawn.subscribe(note(30), {.stage = presentation}), dawn.subscribe(note(20)),
        dawn.subscribe(note(0), {.stage = rules}),         dawn.subscribe(note(31), {.stage = presentation}),
        dawn.subscribe(note(10), {.stage = checks}),       dawn.subscribe(note(21)),
        dawn.subscribe(note(1), {.stage = rules}),
    };
    CHECK(dawn.publish().served() == 7);
    CHECK(heard == test::trace{0, 1, 10, 20, 21, 30, 31});
}

TEST_CASE("a channel used in one late stage only is as plain as any") {
    channel<Dawn> dawn{"watch.dawn"};
    test::trace heard;
    subscription late = dawn.subscribe([&] { heard.push_back(2); }, {.stage = presentation});
    dawn.publish();
    late.end();
    const subscription early = dawn.subscribe([&] { heard.push_back(1); }, {.stage = rules});
    late = dawn.subscribe([&] { heard.push_back(2); }, {.stage = presentation});
    CHECK(dawn.publish().served() == 2);
    CHECK(heard == test::trace{2, 1, 2});
}

TEST_CASE("contract 2: a handler added to a later stage during a publish waits for the next") {
    channel<Dawn> dawn{"watch.dawn"};
    test::trace heard;
    subscriber in{"late"};
    const subscription old_late = dawn.subscribe([&] { heard.push_back(9); }, {.stage = presentation});
    const subscription s = dawn.subscribe(
        [&] {
            heard.push_back(1);
            if (in.size() == 0) {
                in.subscribe(dawn, [&] { heard.push_back(5); });                           // a stage of its own
                in.subscribe(dawn, [&] { heard.push_back(10); }, {.stage = presentation}); // behind another
            }
        },
        {.stage = rules});
    CHECK(dawn.publish().served() == 2);
    CHECK(dawn.publish().served() == 4);
    CHECK(heard == test::trace{1, 9, 1, 5, 9, 10});
}

TEST_CASE("a verdict of stop ends the publish at once, and the receipt says who") {
    channel<Dawn> dawn{"watch.dawn"};
    test::trace heard;
    subscriber tables{"tide tables"};
    bool forbid = true;
    const auto line = std::source_location::current().line() + 1;
    tables.subscribe(dawn, [&] { return forbid ? verdict::stop : verdict::go_on; }, {.stage = rules});
    tables.subscribe(dawn, [&] { heard.push_back(1); }, {.stage = rules});
    tables.subscribe(dawn, [&] { heard.push_back(2); });
    const courier::receipt stopped = dawn.publish();
    CHECK(stopped.stopped());
    CHECK(stopped.served() == 1);
    CHECK(stopped.stopped_by() == "tide tables");
    CHECK(stopped.stopped_at().line() == line);
    CHECK(heard.empty());
    forbid = false;
    const courier::receipt passed = dawn.publish();
    CHECK_FALSE(passed.stopped());
    CHECK(passed.stopped_by().empty());
    CHECK(passed.stopped_at().line() == 0);
    CHECK(passed.served() == 3);
}

TEST_CASE("a verdict of finish_stage lets its own stage finish") {
    channel<Dawn> dawn{"watch.dawn"};
    test::trace heard;
    const subscription all[] = {
        dawn.subscribe(
            [&] {
                heard.push_back(1);
                return verdict::finish_stage;
            },
            {.stage = rules}),
        dawn.subscribe([&] { heard.push_back(2); }, {.stage = rules}),
        dawn.subscribe([&] { heard.push_back(3); }),
    };
    const courier::receipt r = dawn.publish();
    CHECK(r.stopped());
    CHECK(r.served() == 2);
    CHECK(r.stopped_by().empty()); // no named subscriber
    CHECK(r.stopped_at().line() != 0);
    CHECK(heard == test::trace{1, 2});
}

TEST_CASE("a verdict works with one stage, with options, and with a nested publish") {
    channel<Dawn> dawn{"watch.dawn"};
    channel<Dawn> bell{"bell"};
    int reached = 0;
    subscriber in{"warden"};
    const subscription inner = bell.subscribe([] { return verdict::stop; });
    in.subscribe(dawn,
                 [&] {
                     CHECK(bell.publish().stopped());
                     return verdict::go_on;
                 },
                 {.times = 5});
    in.subscribe(dawn, [p = std::make_unique<int>(1)] { return *p == 1 ? verdict::stop : verdict::go_on; },
                 {.times = 1});
    in.subscribe(dawn, [&] { ++reached; });
    const courier::receipt r = dawn.publish();
    CHECK(r.stopped());
    CHECK(r.stopped_by() == "warden");
    CHECK(reached == 0);
    CHECK_FALSE(dawn.publish().stopped());
    CHECK(reached == 1);
}

TEST_CASE("the receipt's name outlives the subscriber that stopped the publish") {
    channel<Dawn> dawn{"watch.dawn"};
    auto in = std::make_unique<subscriber>("a subscriber with a rather long name");
    in->subscribe(dawn, [&] {
        in.reset();
        return verdict::stop;
    });
    const courier::receipt r = dawn.publish();
    CHECK(r.stopped_by() == "a subscriber with a rather long name");
    CHECK(dawn.size() == 0);
}

#if WIRED_COURIER_CHECKED
TEST_CASE("checked builds tell of two stages in one place") {
    constexpr courier::stage physics = courier::before(courier::ordinary, "physics");
    test::fault_catcher faults;
    channel<Dawn> dawn{"watch.dawn"};
    const subscription other = dawn.subscribe([] {});
    const subscription a = dawn.subscribe([] {}, {.stage = rules});
    const subscription b = dawn.subscribe([] {}, {.stage = physics});
    REQUIRE(faults.caught().size() == 1);
    CHECK(faults.caught()[0].code == courier::fault_code::stage_clash);
    CHECK(test::contains(faults.caught()[0].message,
                         "stages 'rules' and 'physics' have the same place in the order of channel 'watch.dawn'"));
    CHECK(dawn.publish().served() == 3);
}
#endif
