#include "support.hpp"

using courier::channel;
using courier::subscription;
using test::Dawn;

TEST_CASE("a subscription can be moved, and moved over") {
    channel<Dawn> dawn{"watch.dawn"};
    test::trace heard;
    subscription a = dawn.subscribe([&] { heard.push_back(1); });
    subscription b = dawn.subscribe([&] { heard.push_back(2); });
    subscription c{std::move(a)};
    CHECK_FALSE(a.live()); // NOLINT(bugprone-use-after-move): defined to be not live
    CHECK(c.live());
    CHECK(dawn.publish().served() == 2);
    b = std::move(c); // ends what b held
    CHECK(dawn.publish().served() == 1);
    CHECK(heard == test::trace{1, 2, 1});
    subscription& self = b;
    b = std::move(self);
    CHECK(b.live());
    b = dawn.subscribe([&] { heard.push_back(3); }); // a handler that replaces another
    CHECK(dawn.publish().served() == 1);
    CHECK(heard.back() == 3);
}

TEST_CASE("a subscription knows where it was made") {
    channel<Dawn> dawn{"watch.dawn"};
    const auto line = std::source_location::current().line() + 1;
    const subscription s = dawn.subscribe([] {});
    CHECK(s.where().line() == line);
    CHECK(test::contains(s.where().file_name(), "subscription_test.cpp"));
}
