#include "support.hpp"

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
    CHECK(faults.told_once({"[courier.stage-clash]",
                            "stages 'rules' and 'physics' have the same place in the order of channel 'watch.dawn'"}));
    CHECK(dawn.publish().served() == 3);
}
#endif
