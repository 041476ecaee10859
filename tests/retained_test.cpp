#include "support.hpp"

using courier::addressed_channel;
using courier::channel;
using test::Moored;

namespace {

struct Ordered {
    int speed = 0;
};

struct listener {
    std::string log;
    courier::subscriber in{"listener"};
    template <class Source>
    void listen(const Source& to, bool retained) {
        in.subscribe(to, [this](const typename Source::payload_type& p) { note(p); }, {.retained = retained});
    }
    void note(const Moored& m) { log += std::to_string(m.boat) + " "; }
    void note(const Ordered& o) { log += std::to_string(o.speed) + " "; }
};

} // namespace

TEST_CASE("late joiners get the last payload, if both sides say so") {
    channel<Moored> moored{"moored"};
    moored.publish({.boat = 1});
    listener early;
    early.listen(moored, true);
    CHECK(early.log.empty());
    CHECK(moored.latest() == nullptr);

    moored.retain_latest();
    moored.publish({.boat = 2});
    moored.publish({.boat = 3});
    CHECK(moored.latest()->boat == 3);
    listener wants;
    wants.listen(moored, true);
    listener does_not;
    does_not.listen(moored, false);
    CHECK(wants.log == "3 ");
    CHECK(does_not.log.empty());
    CHECK(early.log == "2 3 ");

    moored.forget_latest();
    moored.publish({.boat = 4});
    listener after;
    after.listen(moored, true);
    CHECK(after.log.empty());
    CHECK(wants.log == "3 4 ");
}

TEST_CASE("it is kept with nobody there, nested, in batches and through an outbox") {
    channel<Moored> moored{"moored"};
    channel<Ordered> ordered{"ordered"};
    moored.retain_latest();
    moored.publish({.boat = 1});
    CHECK(moored.latest()->boat == 1);
    courier::subscriber in;
    in.subscribe(ordered, [&](const Ordered& o) { moored.publish({.boat = o.speed}); });
    ordered.publish({.speed = 7});
    CHECK(moored.latest()->boat == 7);
    in.subscribe(moored, [](std::span<const Moored>) {});
    const Moored several[] = {{.boat = 8}, {.boat = 9}};
    moored.publish_all(several);
    CHECK(moored.latest()->boat == 9);
    courier::outbox later;
    later.post(moored, {.boat = 10});
    later.deliver();
    CHECK(moored.latest()->boat == 10);
    in.clear();
    moored.publish({.boat = 11});
    CHECK(moored.latest()->boat == 11);
}

TEST_CASE("delivery options hold for what was retained") {
    channel<Moored> moored{"moored"};
    moored.retain_latest();
    moored.publish({.boat = 5});
    listener l;
    const auto note = [&](const Moored& m) { l.note(m); };
    const courier::subscription once = moored.subscribe(note, {.times = 1, .retained = true});
    CHECK_FALSE(once.live());
    const courier::subscription not_that =
        moored.subscribe(note, {.condition = [](const Moored& m) { return m.boat != 5; }, .retained = true});
    CHECK(l.log == "5 ");
    l.in.pause();
    l.listen(moored, true);
    CHECK(l.log == "5 ");
}

TEST_CASE("one who joins in the middle of a publish is served it once") {
    channel<Moored> moored{"moored"};
    moored.retain_latest();
    listener late;
    courier::subscriber in;
    in.subscribe(moored, [&] { late.listen(moored, true); }, {.times = 1});
    moored.publish({.boat = 1});
    CHECK(late.log == "1 ");
    moored.publish({.boat = 2});
    CHECK(late.log == "1 2 ");
}

TEST_CASE("what throws is thrown to who subscribes, and may end everything") {
    auto moored = std::make_unique<channel<Moored>>("moored");
    moored->retain_latest();
    moored->publish({.boat = 1});
    courier::subscriber in{"careless"};
    const auto fails = [](const Moored&) { throw std::runtime_error("squall"); };
    CHECK_THROWS_WITH(in.subscribe(*moored, fails, {.retained = true}), "squall");
    CHECK(in.size() == 1);
    const auto ends_it = [&](const Moored& m) {
        moored.reset();
        CHECK(m.boat == 1);
    };
    in.subscribe(*moored, ends_it, {.retained = true});
    CHECK(in.size() == 0);
}

TEST_CASE("each address keeps its own, and a newer one for everyone comes before it") {
    addressed_channel<Ordered, int> ordered{"ordered"};
    ordered.retain_latest();
    ordered.publish_to(3, {.speed = 1});
    ordered.publish_to(3, {.speed = 2});
    ordered.publish_to(4, {.speed = 4});
    listener at_three;
    at_three.listen(ordered.at(3), true);
    CHECK(at_three.log == "2 ");
    ordered.publish({.speed = 9});
    ordered.publish_to(4, {.speed = 5});
    listener at_both;
    at_both.listen(ordered.at(3), true);
    at_both.listen(ordered.at(4), true);
    at_both.listen(ordered.at(5), true);
    CHECK(at_both.log == "9 5 9 ");
    listener to_all;
    to_all.listen(ordered, true);
    CHECK(to_all.log == "2 9 5 ");
    courier::group<int> convoy{"convoy"};
    const courier::membership three = convoy.join(3);
    const courier::membership six = convoy.join(6);
    ordered.publish_to(convoy, {.speed = 6});
    listener at_six;
    at_six.listen(ordered.at(6), true);
    CHECK(at_six.log == "6 ");
    CHECK(ordered.latest()->speed == 9);

    addressed_channel<Ordered, std::string> by_name{"by name"};
    by_name.retain_latest();
    by_name.publish_to("Osprey", {.speed = 3});
    listener named;
    named.listen(by_name.at("Osprey"), true);
    named.listen(by_name.at("Tern"), true);
    CHECK(named.log == "3 ");
}
