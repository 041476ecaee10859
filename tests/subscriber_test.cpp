#include "support.hpp"

using courier::channel;
using courier::subscriber;
using test::Dawn;
using test::Moored;

namespace {

struct logbook {
    void on_moored(const Moored& m) { landed += m.cargo; }
    int landed = 0;
};

} // namespace

static_assert(!std::is_copy_constructible_v<subscriber> && !std::is_move_constructible_v<subscriber>);

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

namespace {

int calls = 0;
void count() {
    ++calls;
}

} // namespace

TEST_CASE("free functions take options that the caller keeps, and so does once()") {
    channel<Moored> moored("harbour.moored");
    subscriber in{"in"};
    bool is_open = true;
    const courier::delivery_options<Moored> kept{.times = 2, .condition = [&](const Moored&) { return is_open; }};
    courier::delivery_options<Moored> own = kept;
    in.subscribe<&count>(moored, kept);
    in.subscribe<&count>(moored, own); // which are copied, not moved from
    in.once<&count>(moored, own);
    CHECK(own.times == 2);
    is_open = false;
    moored.publish({});
    CHECK(calls == 0); // all have the condition
    is_open = true;
    for (int i = 0; i < 3; ++i) {
        moored.publish({});
    }
    CHECK(calls == 2 + 2 + 1);
    const courier::subscription third = moored.subscribe<&count>(own);
    is_open = false;
    moored.publish({});
    CHECK(calls == 5);
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
    CHECK(faults.told_once({"[courier.handler-twice]"}));
    CHECK(faults.caught()[0].level == courier::severity::notice);
    CHECK(test::contains(
        faults.caught()[0].text(),
        "subscriber 'logbook' subscribes the same handler to 'harbour.moored' here and at subscriber_test.cpp:"));
    CHECK(moored.publish({.boat = 1, .cargo = 1}).served() == 3);
}
#endif
