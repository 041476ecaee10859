#include "support.hpp"

#include <courier/channel.hpp>
#include <courier/subscriber.hpp>

#include <doctest/doctest.h>

#include <memory>
#include <optional>
#include <type_traits>

using courier::channel;
using courier::subscriber;
using test::Dawn;
using test::Moored;

namespace {

int rung = 0;
void ring() {
    ++rung;
}

struct logbook {
    void on_moored(const Moored& m) { landed += m.cargo; }
    int landed = 0;
};

} // namespace

static_assert(!std::is_copy_constructible_v<subscriber> && !std::is_move_constructible_v<subscriber>);

TEST_CASE("a subscriber ends all its subscriptions when it ends") {
    channel<Dawn> dawn{"watch.dawn"};
    channel<Moored> moored{"harbour.moored"};
    logbook book;
    {
        subscriber in{"logbook"};
        in.subscribe(dawn, [] {});
        in.subscribe<&ring>(dawn);
        in.subscribe<&logbook::on_moored>(moored, book);
        CHECK(in.size() == 3);
        CHECK(in.name() == "logbook");
        CHECK(dawn.publish().served() == 2);
        CHECK(moored.publish({.boat = 1, .cargo = 5}).served() == 1);
    }
    CHECK(dawn.publish().served() == 0);
    CHECK(moored.publish({}).served() == 0);
    CHECK(book.landed == 5);
    CHECK(rung == 1);
}

TEST_CASE("contract 4: channels may die before the subscriber") {
    subscriber in{"logbook"};
    channel<Dawn> stays{"watch.dawn"};
    {
        channel<Dawn> goes{"watch.dusk"};
        in.subscribe(goes, [] {});
        in.subscribe(stays, [] {});
        in.subscribe(goes, [] {});
        CHECK(in.size() == 3);
    }
    CHECK(in.size() == 1);
    CHECK(stays.publish().served() == 1);
}

TEST_CASE("clear ends everything, and the subscriber can be used again") {
    channel<Dawn> dawn{"watch.dawn"};
    subscriber in{"bell"};
    in.subscribe(dawn, [] {});
    in.subscribe(dawn, [] {});
    in.clear();
    CHECK(in.size() == 0);
    CHECK(dawn.publish().served() == 0);
    in.subscribe(dawn, [] {});
    CHECK(dawn.publish().served() == 1);
}

TEST_CASE("a paused subscriber hears nothing and loses nothing") {
    channel<Dawn> dawn{"watch.dawn"};
    test::trace heard;
    subscriber first{"first"};
    subscriber second{"second"};
    first.subscribe(dawn, [&] { heard.push_back(1); });
    second.subscribe(dawn, [&] { heard.push_back(2); });
    first.pause();
    CHECK(first.paused());
    first.subscribe(dawn, [&] { heard.push_back(3); }); // starts paused
    CHECK(dawn.publish().served() == 1);
    CHECK(first.size() == 2);
    first.resume();
    CHECK(dawn.publish().served() == 3);
    CHECK(heard == test::trace{2, 1, 2, 3});
}

TEST_CASE("a subscriber can end one subscription") {
    channel<Dawn> dawn{"watch.dawn"};
    subscriber in{"bell"};
    const auto keep = in.subscribe(dawn, [] {});
    const auto drop = in.subscribe(dawn, [] {});
    CHECK(in.live(drop));
    CHECK(in.end(drop));
    CHECK_FALSE(in.live(drop));
    CHECK_FALSE(in.end(drop));
    CHECK(in.live(keep));
    in.subscribe(dawn, [] {}); // takes over the memory of the one that ended
    CHECK_FALSE(in.live(drop));
    CHECK_FALSE(in.end(drop));
    CHECK(in.size() == 2);
    CHECK_FALSE(in.end(courier::subscription_key{}));
    subscriber other{"other"};
    CHECK_FALSE(other.end(keep));
}

TEST_CASE("a subscriber can leave one channel") {
    channel<Dawn> dawn{"watch.dawn"};
    channel<Dawn> dusk{"watch.dusk"};
    subscriber in{"bell"};
    in.subscribe(dawn, [] {});
    in.subscribe(dusk, [] {});
    in.subscribe(dawn, [] {});
    CHECK(in.leave(dawn) == 2);
    CHECK(in.leave(dawn) == 0);
    CHECK(dawn.publish().served() == 0);
    CHECK(dusk.publish().served() == 1);
}

TEST_CASE("captures of a subscriber's handlers go with it") {
    channel<Dawn> dawn{"watch.dawn"};
    auto token = std::make_shared<int>(0);
    {
        subscriber in;
        in.subscribe(dawn, [token] {});
        CHECK(token.use_count() == 2);
        CHECK(in.name().empty());
    }
    CHECK(token.use_count() == 1);
}

TEST_CASE("a capture that ends another subscription in its destructor is no trouble") {
    channel<Dawn> dawn{"watch.dawn"};
    struct chain {
        subscriber* other;
        ~chain() {
            if (other != nullptr) {
                other->clear();
            }
        }
    };
    subscriber second{"second"};
    second.subscribe(dawn, [] {});
    second.subscribe(dawn, [] {});
    {
        subscriber first{"first"};
        first.subscribe(dawn, [link = std::make_shared<chain>(&second)] {});
        first.subscribe(dawn, [] {});
        second.clear();
        second.subscribe(dawn, [] {});
    }
    CHECK(dawn.size() == 0);
    CHECK(second.size() == 0);
}

TEST_CASE("a capture may hold the subscriber itself, which then goes with it") {
    for (const bool leave : {false, true}) {
        channel<Dawn> dawn{"watch.dawn"};
        subscriber* in = nullptr;
        {
            auto owner = std::make_shared<subscriber>("bell");
            in = owner.get();
            in->subscribe(dawn, [] {});
            in->subscribe(dawn, [owner] {});
            in->subscribe(dawn, [] {});
        }
        CHECK(dawn.publish().served() == 3);
        leave ? static_cast<void>(in->leave(dawn)) : in->clear();
        CHECK(dawn.size() == 0);
    }
}

TEST_CASE("a subscription may be kept in its own handler's capture") {
    std::optional<channel<Dawn>> dawn{std::in_place, "watch.dawn"};
    auto own = std::make_shared<courier::subscription>();
    const std::weak_ptr<courier::subscription> watch = own;
    *own = dawn->subscribe([own] {});
    own.reset();
    CHECK(dawn->publish().served() == 1);
    SUBCASE("ended by itself") {
        watch.lock()->end();
    }
    SUBCASE("ended by the channel") {
        dawn.reset();
    }
    CHECK(watch.expired());
}

TEST_CASE("what a capture publishes while its channel is destroyed is heard by nobody") {
    auto dawn = std::make_unique<channel<Dawn>>("watch.dawn");
    struct parting_shot {
        channel<Dawn>* target;
        unsigned* served;
        ~parting_shot() { *served += target->publish().served(); }
    };
    unsigned served = 0;
    subscriber in{"bell"};
    in.subscribe(*dawn, [shot = std::make_shared<parting_shot>(dawn.get(), &served)] {});
    in.subscribe(*dawn, [] {});
    dawn.reset();
    CHECK(served == 0);
    CHECK(in.size() == 0);
}

TEST_CASE("a capture that ends its own channel in its destructor is no trouble") {
    std::optional<channel<Dawn>> dawn{std::in_place, "watch.dawn"};
    struct last_one_out {
        std::optional<channel<Dawn>>* target;
        ~last_one_out() { target->reset(); }
    };
    subscriber in{"bell"};
    in.subscribe(*dawn, [] {});
    const auto key = in.subscribe(*dawn, [last = std::make_shared<last_one_out>(&dawn)] {});
    CHECK(in.end(key));
    CHECK_FALSE(dawn.has_value());
    CHECK(in.size() == 0);
}

#if WIRED_COURIER_CHECKED
TEST_CASE("checked builds tell of a handler that one subscriber subscribes twice") {
    test::fault_catcher faults;
    channel<Moored> moored{"harbour.moored"};
    logbook book;
    logbook other;
    subscriber in{"logbook"};
    in.subscribe<&logbook::on_moored>(moored, book);
    in.subscribe<&logbook::on_moored>(moored, other);
    CHECK(faults.caught().empty());
    in.subscribe<&logbook::on_moored>(moored, book);
    REQUIRE(faults.caught().size() == 1);
    CHECK(faults.caught()[0].code == courier::fault_code::handler_twice);
    CHECK(faults.caught()[0].level == courier::severity::notice);
    CHECK(
        test::contains(faults.caught()[0].message,
                       "subscriber 'logbook' subscribes the same handler to 'harbour.moored' at subscriber_test.cpp:"));
    CHECK(moored.publish({.boat = 1, .cargo = 1}).served() == 3);
}
#endif
