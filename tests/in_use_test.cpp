// Code of the user's that runs in the middle of what the library does, in channels and ledgers. It may do anything
// there.
#include "in_use_scene.hpp"

using namespace in_use;

TEST_CASE("a ledger that a channel's capture owns may end with it") {
    auto books = std::make_unique<courier::ledger>("night");
    if (!books->working()) {
        return; // another one keeps this thread's books
    }
    books->attach_everything();
    auto tide = std::make_unique<channel<Tide>>("tide");
    subscriber in{"in"};
    in.subscribe(*tide, [keeps = std::shared_ptr<courier::ledger>(books.release())](const Tide&) {});
    in.subscribe(*tide, [text = std::make_shared<int>(1)](const Tide&) {});
    tide->publish({1});
    tide.reset();
    CHECK(in.size() == 0);
    CHECK(courier::current_event() == 0);
}

TEST_CASE("a ledger's periods and conditions are told apart, also in pipelines and for spans") {
    channel<Tide> tide{"tide"};
    channel<Tide> other{"other"};
    courier::ledger books{"night"};
    if (!books.working()) {
        return;
    }
    books.attach_everything();
    courier::period watch{"watch", {.running = false}};
    subscriber in{"in"};
    SUBCASE("pipeline") {
        in.subscribe(tide | courier::filter([](const Tide&) { return true; }), [](const Tide&) {}, {.during = watch});
        tide.publish({1});
    }
    SUBCASE("span") {
        in.subscribe(tide, [](std::span<const Tide>) {}, {.during = watch});
        const Tide some[] = {{1}};
        tide.publish_all(some);
    }
    in.subscribe(other, [](const Tide&) {}, {.condition = [](const Tide& t) { return t.height > 5; }});
    other.publish({1});
    const courier::books read = books.read();
    REQUIRE(read.subscriptions.size() == 2);
    CHECK(read.subscriptions[0].turns[courier::turn::outside_period] == 1);
    CHECK(read.subscriptions[0].turns[courier::turn::served] == 0);
    CHECK(read.subscriptions[1].turns[courier::turn::outside_period] == 0);
    CHECK(read.subscriptions[1].turns[courier::turn::condition] == 1);
}

TEST_CASE("causes that wait are void in another ledger") {
    channel<Tide> tide{"tide"};
    channel<Bite> bites{"bites"};
    outbox later{"later"};
    timetable hours{later};
    subscriber in{"in"};
    in.subscribe(tide, [&](const Tide& t) { bites.publish({t.height}); });
    in.subscribe(bites, [&](const Bite& b) {
        if (b.crates > 0) {
            tide.publish({b.crates - 1});
        }
    });
    courier::cause carried;
    {
        courier::ledger first{"first"};
        if (!first.working()) {
            return;
        }
        first.attach_everything();
        for (int i = 0; i < 3; ++i) {
            bites.publish({0});
        }
        auto posts = tide.subscribe([&] {
            later.post(tide, {1});
            hours.after(1ms, tide, {1}).release();
            carried = courier::cause::here();
        });
        tide.publish({0});
    }
    courier::ledger second{"second"};
    second.attach_everything();
    for (int i = 0; i < 3; ++i) {
        bites.publish({0});
    }
    hours.advance(1s);
    later.deliver();
    {
        const courier::caused_by by(carried);
        tide.publish({0});
    }
    for (const courier::chain_link& link : second.chain(second.read().events)) {
        CHECK(link.id <= second.read().events);
    }
    CHECK(second.read().circles.size() <= 1);
    for (std::uint64_t id = 1; id <= second.read().events; ++id) {
        const auto chain = second.chain(id);
        for (std::size_t i = 1; i < chain.size(); ++i) {
            CHECK(chain[i].id > chain[i - 1].id); // the oldest first
        }
    }
}

#if WIRED_COURIER_CHECKED
TEST_CASE("a foreign thread's outbox, poster, timetable, state and formula on a channel are caught") {
    channel<Tide> tide{"tide"};
    outbox mine{"mine"};
    timetable hours{mine};
    courier::inbox in{mine};
    courier::state<int> depth{"depth", 1};
    courier::formula<int> twice{"twice", [&] { return depth.read() * 2; }};
    int heard = 0;
    auto hears = tide.subscribe([&] { ++heard; });
    CHECK(twice.read() == 2);
    std::vector<std::string> caught;
    std::thread([&] {
        const auto attempt = [&](const char* what, auto act) {
            try {
                act();
                caught.push_back(std::string("not caught: ") + what);
            } catch (const courier::fault_error& m) {
                if (m.code() != courier::fault_code::wrong_thread) {
                    caught.push_back(m.what());
                }
            }
        };
        outbox own{"the worker's"};
        timetable own_hours{own};
        attempt("post", [&] { own.post(tide, {1}); });
        attempt("poster", [&] { poster<Tide> p{own, tide}; });
        attempt("after", [&] { own_hours.after(1ms, tide, {1}).release(); });
        attempt("foreign timetable", [&] { hours.after(1ms, tide, {1}).release(); });
        attempt("advance", [&] { hours.advance(1ms); });
        attempt("deliver", [&] { mine.deliver(); });
        attempt("take in", [&] { in.take_in(); });
        attempt("sender", [&] { courier::inlet<Tide> s{in, tide}; });
        attempt("set", [&] { depth.set(2); });
        attempt("read", [&] {
            courier::formula<int> f{"f", [&] { return depth.read(); }};
            static_cast<void>(f.read());
        });
        attempt("read a formula", [&] { static_cast<void>(twice.read()); });
        attempt("subscribe to a state", [&] { auto s = depth.subscribe([] {}); });
        attempt("subscribe to a formula", [&] { auto s = twice.subscribe([] {}); });
    }).join();
    CHECK(caught.empty());
    for (const std::string& what : caught) {
        MESSAGE(what);
    }
    CHECK(heard == 0);
    CHECK(depth.glance() == 1);
}
#endif
