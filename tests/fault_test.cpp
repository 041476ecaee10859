#include "support.hpp"

using courier::fault_code;

TEST_CASE("fault codes have stable text forms") {
    CHECK(courier::id_of(fault_code::too_deep) == "courier.too-deep");
    CHECK(courier::id_of(fault_code::wrong_thread) == "courier.wrong-thread");
    CHECK(courier::id_of(fault_code::empty_handler) == "courier.empty-handler");
    CHECK(courier::id_of(fault_code::stage_clash) == "courier.stage-clash");
    CHECK(courier::id_of(fault_code::handler_twice) == "courier.handler-twice");
    CHECK(courier::id_of(fault_code::channel_full) == "courier.channel-full");
    CHECK(courier::id_of(fault_code::closed_channel) == "courier.closed-channel");
    CHECK(courier::id_of(fault_code::module_has_subscriptions) == "courier.module-has-subscriptions");
    CHECK(courier::id_of(fault_code::two_libraries) == "courier.two-libraries");
    CHECK(courier::id_of(fault_code::relay_circle) == "courier.relay-circle");
    CHECK(courier::id_of(fault_code::second_answerer) == "courier.second-answerer");
    CHECK(courier::id_of(fault_code::unknown_channel) == "courier.unknown-channel");
    CHECK(courier::id_of(fault_code::name_clash) == "courier.name-clash");
    CHECK(courier::id_of(fault_code::nested_round) == "courier.nested-round");
    CHECK(courier::id_of(fault_code::not_quiet) == "courier.not-quiet");
    CHECK(courier::id_of(fault_code::bad_interval) == "courier.bad-interval");
    CHECK(courier::id_of(fault_code::failure_lost) == "courier.failure-lost");
    CHECK(courier::id_of(fault_code::channel_hidden) == "courier.channel-hidden");
    CHECK(courier::id_of(fault_code::set_in_formula) == "courier.set-in-formula");
    CHECK(courier::id_of(fault_code::formula_circle) == "courier.formula-circle");
    CHECK(courier::id_of(fault_code::never_settles) == "courier.never-settles");
}

TEST_CASE("misuse is thrown unless a handler is installed") {
    const auto where = std::source_location::current();
    const auto misuse = [&] {
        courier::detail::raise(fault_code::wrong_thread, courier::severity::misuse, "it broke", "mend it", where);
    };
    const std::string line =
        "fault_test.cpp:" + std::to_string(where.line()) + ": it broke; mend it [courier.wrong-thread]";
    CHECK_THROWS_WITH_AS(misuse(), line.c_str(), courier::fault_error);
    CHECK(courier::last_fault()->where.line() == where.line());
    {
        test::fault_catcher faults;
        misuse();
        REQUIRE(faults.caught().size() == 1);
        CHECK(faults.caught()[0].text() == line);
    }
    CHECK_THROWS_AS(misuse(), courier::fault_error);
}

TEST_CASE("the last fault is kept per thread") {
    courier::detail::raise(fault_code::too_deep, courier::severity::refused, "here", {}, {});
    bool elsewhere_has_one = true;
    std::thread other([&] { elsewhere_has_one = courier::last_fault() != nullptr; });
    other.join();
    CHECK_FALSE(elsewhere_has_one);
    CHECK(courier::last_fault()->text() == "here [courier.too-deep]");
}

TEST_CASE("subscribing to a channel that is being destroyed is refused") {
    test::fault_catcher faults;
    using test::Dawn;
    auto dawn = std::make_unique<courier::channel<Dawn>>("watch.dawn");
    const courier::channel<Dawn>& still_there = *dawn;
    bool live = true;
    struct late_comer {
        const courier::channel<Dawn>* target;
        bool* live;
        ~late_comer() {
            *live = target->subscribe([] {}).live();
        }
    };
    auto s = dawn->subscribe([guest = std::make_shared<late_comer>(&still_there, &live)] {});
    dawn.reset();
    CHECK_FALSE(live);
    CHECK(faults.told_once({"[courier.closed-channel]", "refused: channel 'watch.dawn' is being destroyed"}));
}
