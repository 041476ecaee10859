// Contract 6: a handler that throws.
#include "support.hpp"

using courier::channel;
using courier::subscriber;
using courier::subscription;
using test::Dawn;

TEST_CASE("contract 6: an exception passes through nested publishes, serving all on the way") {
    channel<Dawn> outer{"outer"};
    channel<Dawn> inner{"inner"};
    test::trace heard;
    const subscription all[] = {
        inner.subscribe([] { throw std::runtime_error("deep"); }),
        inner.subscribe([&] { heard.push_back(1); }),
        outer.subscribe([&] {
            inner.publish();
            heard.push_back(99); // not reached
        }),
        outer.subscribe([&] { heard.push_back(2); }),
    };
    CHECK_THROWS_WITH_AS(outer.publish(), "deep", std::runtime_error);
    CHECK(heard == test::trace{1, 2});
    CHECK_THROWS_AS(outer.publish(), std::runtime_error); // nothing was left behind
}

TEST_CASE("contract 6: with a failure handler the publisher sees no exception") {
    channel<Dawn> dawn{"watch.dawn"};
    subscriber in{"bell"};
    std::vector<std::string> told;
    unsigned line = 0;
    dawn.on_failure([&](const courier::failure& f) {
        try {
            std::rethrow_exception(f.error);
        } catch (const std::exception& e) {
            told.push_back(std::string{f.channel} + "/" + std::string{f.subscriber} + ": " + e.what());
        }
        line = f.where.line();
    });
    const auto here = std::source_location::current().line() + 1;
    in.subscribe(dawn, [] { throw std::runtime_error("cracked"); });
    const subscription other = dawn.subscribe([] {});
    CHECK(dawn.publish().served() == 2);
    CHECK(told == std::vector<std::string>{"watch.dawn/bell: cracked"});
    CHECK(line == here);
    dawn.on_failure({});
    CHECK_THROWS_AS(dawn.publish(), std::runtime_error);
}

TEST_CASE("a failure handler that throws, and one that replaces itself") {
    channel<Dawn> dawn{"watch.dawn"};
    int told = 0;
    const subscription s = dawn.subscribe([] { throw std::runtime_error("cracked"); });
    dawn.on_failure([&](const courier::failure&) {
        ++told;
        dawn.on_failure([](const courier::failure&) { throw std::runtime_error("worse"); });
    });
    CHECK(dawn.publish().served() == 1);
    CHECK(told == 1);
    CHECK_THROWS_WITH_AS(dawn.publish(), "worse", std::runtime_error);
}

TEST_CASE("handlers in several stages that throw") {
    constexpr auto rules = courier::before(courier::ordinary, "rules");
    channel<Dawn> dawn{"watch.dawn"};
    subscriber in{"tides"};
    std::vector<std::string> told;
    test::trace heard;
    in.subscribe(dawn, [&] { heard.push_back(2); });
    in.subscribe(dawn, [] { throw 2; });
    in.subscribe(dawn, [&] { heard.push_back(1); }, {.stage = rules});
    in.subscribe(dawn, [] { throw 1; }, {.stage = rules});
    CHECK_THROWS_AS(dawn.publish(), int);
    CHECK(heard == test::trace{1, 2});
    dawn.on_failure([&](const courier::failure& f) { told.emplace_back(f.subscriber); });
    CHECK(dawn.publish().served() == 4);
    CHECK(told == std::vector<std::string>{"tides", "tides"});
}
