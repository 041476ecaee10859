// Contract 5: nested publishes and their limit.
#include "support.hpp"

using courier::channel;
using courier::subscriber;
using test::Dawn;

namespace {

struct limit_for_a_while {
    explicit limit_for_a_while(std::uint32_t limit) { courier::set_depth_limit(limit); }
    ~limit_for_a_while() { courier::set_depth_limit(courier::default_depth_limit); }
};

} // namespace

TEST_CASE("contract 5: a publish nested too deeply is refused with the chain of channels") {
    const limit_for_a_while limit(3);
    test::fault_catcher faults;
    channel<Dawn> bell{"bell"};
    channel<Dawn> horn{"horn"};
    subscriber in{"echo"};
    int refused = 0;
    test::trace heard;
    in.subscribe(bell, [&] {
        heard.push_back(1);
        refused += horn.publish().refused() ? 1 : 0;
    });
    in.subscribe(horn, [&] {
        heard.push_back(2);
        refused += bell.publish().refused() ? 1 : 0;
    });
    in.subscribe(bell, [&] { heard.push_back(3); });
    const courier::receipt r = bell.publish();
    CHECK_FALSE(r.refused());
    CHECK(r.served() == 2);
    CHECK(refused == 1);
    CHECK(heard == test::trace{1, 2, 1, 3, 3}); // the program went on
    REQUIRE(faults.caught().size() == 1);
    const courier::fault& f = faults.caught()[0];
    CHECK(f.code == courier::fault_code::too_deep);
    CHECK(f.level == courier::severity::refused);
    CHECK(test::contains(f.text(), "depth_test.cpp:"));
    CHECK(test::contains(
        f.text(), "publish on 'horn' refused: 3 publishes are nested already: 'bell' -> 'horn' (depth_test.cpp:"));
    CHECK(test::contains(f.text(), ") -> 'bell' (depth_test.cpp:"));
    CHECK(test::contains(f.text(), "-> 'horn'; break the circle, or raise the limit with courier::set_depth_limit()"));
}

TEST_CASE("without a fault handler the refusal is kept for whoever asks") {
    channel<Dawn> bell{"bell"};
    std::uint32_t deepest = 0;
    std::uint32_t depth = 0;
    const auto s = bell.subscribe([&] {
        deepest = std::max(deepest, ++depth);
        bell.publish();
        --depth;
    });
    CHECK(bell.publish().served() == 1);
    CHECK(deepest == courier::default_depth_limit);
    REQUIRE(courier::last_fault() != nullptr);
    CHECK(courier::last_fault()->code == courier::fault_code::too_deep);
    CHECK(test::contains(courier::last_fault()->text(), "(48 more) -> "));
}

TEST_CASE("the depth counts through many channels, and a limit of nothing is a limit of one") {
    const limit_for_a_while limit(0);
    CHECK(courier::depth_limit() == 1);
    channel<Dawn> a{"a"};
    channel<Dawn> b{"b"};
    bool refused = false;
    const auto s = a.subscribe([&] { refused = b.publish().refused(); });
    const auto unheard = b.subscribe([] {});
    a.publish();
    CHECK(refused);
    CHECK(b.publish().served() == 1);

    courier::set_depth_limit(10);
    std::vector<std::unique_ptr<channel<Dawn>>> row;
    subscriber in{"chain"};
    int reached = 0;
    for (int i = 0; i < 20; ++i) {
        row.push_back(std::make_unique<channel<Dawn>>("link " + std::to_string(i)));
        in.subscribe(*row.back(), [&, i] {
            ++reached;
            if (i + 1 < 20) {
                row[static_cast<std::size_t>(i) + 1]->publish();
            }
        });
    }
    row[0]->publish();
    CHECK(reached == 10);
}

TEST_CASE("a receipt says that something inside of its publish was refused") {
    courier::channel<test::Dawn> dawn{"dawn"};
    courier::channel<test::Dawn> dusk{"dusk"};
    const test::fault_catcher faults;
    const auto a = dawn.subscribe([&] { dusk.publish(); });
    const auto b = dusk.subscribe([&] { dawn.publish(); });
    const courier::receipt r = dawn.publish();
    CHECK(r.refused_inside());
    CHECK_FALSE(r.refused());
    CHECK(r.served() == 1);
    CHECK(faults.caught().size() == 1);
    CHECK(courier::fault_count(courier::fault_code::too_deep) != 0);
    CHECK(courier::fault_count() >= courier::fault_count(courier::fault_code::too_deep));
    const courier::channel<test::Dawn> quiet{"quiet"};
    courier::channel<test::Dawn> other{"other"};
    CHECK_FALSE(other.publish().refused_inside());
}
