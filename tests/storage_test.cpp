// Contract 8: what is allocated, when, and what is given back.
#include "allocations.hpp"
#include "support.hpp"

using courier::channel;
using courier::subscriber;
using courier::subscription;
using test::counted;
using test::Dawn;
using test::Moored;

TEST_CASE("contract 8: publishing allocates nothing") {
    constexpr auto rules = courier::before(courier::ordinary, "rules");
    channel<Moored> moored{"harbour.moored"};
    channel<Dawn> dawn{"watch.dawn"};
    const courier::publisher<Moored> barge{moored, "barge"};
    subscriber in{"a subscriber with a name that is long"};
    long sum = 0;
    for (int i = 0; i < 20; ++i) {
        in.subscribe(moored, [&sum](const Moored& m) { sum += m.cargo; });
        in.subscribe(moored, [&sum, big = std::array<int, 30>{}] { sum += big[0]; });
        in.subscribe(moored, [&] { dawn.publish(); }, {.condition = [](const Moored& m) { return m.boat != 2; }});
        in.subscribe(moored, [&sum] { return sum < 0 ? courier::verdict::stop : courier::verdict::go_on; },
                     {.stage = rules});
        in.subscribe(dawn, [&] { return courier::verdict::stop; });
    }
    subscription paused = moored.subscribe([] {});
    paused.pause();
    const counted during;
    for (int i = 0; i < 100; ++i) {
        moored.publish({.boat = i, .cargo = 1});
        barge.publish({.boat = i, .cargo = 1});
        CHECK(dawn.publish().stopped());
    }
    CHECK(during.since() == 0);
}

TEST_CASE("contract 8: subscribing after reserve allocates nothing") {
    channel<Moored> moored{"harbour.moored"};
    subscriber in{"logbook"};
    moored.reserve(100);
    std::array<int, 50> targets{};
    const counted during;
    for (std::size_t i = 0; i < 50; ++i) {
        in.subscribe(moored, [slot = &targets[i]] { (void)slot; });
        in.subscribe(moored, [filler = std::array<char, 48>{}] { (void)filler; },
                     {.times = 3, .condition = [](const Moored& m) { return m.boat > 0; }});
    }
    CHECK(during.since() == 0);
}

TEST_CASE("contract 8: what ended is reused") {
    channel<Dawn> dawn{"watch.dawn"};
    std::vector<subscription> all(100);
    const auto fill = [&] {
        for (std::size_t i = 0; i < all.size(); ++i) {
            if (i % 2 == 0) {
                all[i] = dawn.subscribe([&all] { (void)all; });
            } else {
                all[i] = dawn.subscribe([&all, more = std::array<char, 30>{}] { (void)all, (void)more; });
            }
        }
    };
    fill();
    const counted during;
    for (int round = 0; round < 20; ++round) {
        for (subscription& s : all) {
            s.end();
        }
        fill();
        dawn.publish();
    }
    for (int i = 0; i < 10000; ++i) { // one at a time, never all at once
        all[static_cast<std::size_t>(i * 37 % 100) / 2 * 2] = dawn.subscribe([&all] { (void)all; });
    }
    CHECK(during.since() == 0);
}

TEST_CASE("a handler of up to 48 bytes takes no allocation of its own, a larger one takes one") {
    channel<Dawn> dawn{"watch.dawn"};
    dawn.reserve(2);
    const counted small;
    const subscription a = dawn.subscribe([filler = std::array<char, 48>{}] { (void)filler; });
    CHECK(small.since() == 0);
    const counted large;
    const subscription b = dawn.subscribe([filler = std::array<char, 49>{}] { (void)filler; });
    CHECK(large.since() == 1);
}

TEST_CASE("bytes per subscription, all bookkeeping counted") {
    for (const std::size_t population : {1000U, 100000U}) {
        channel<Dawn> dawn{"watch.dawn"};
        subscriber in{"bell"};
        for (std::size_t i = 0; i < population; ++i) {
            in.subscribe(dawn, [&in] { (void)in; });
        }
        const std::size_t each = dawn.bytes() / population;
        CAPTURE(each);
        CHECK(each <= 96);
    }
}

TEST_CASE("shrink gives memory back and leaves what is live alone") {
    channel<Dawn> dawn{"watch.dawn"};
    test::trace heard;
    const std::size_t empty = dawn.bytes();
    std::vector<subscription> all;
    for (int i = 0; i < 1000; ++i) {
        all.push_back(dawn.subscribe([&heard, i, more = std::array<int, 4>{}] { heard.push_back(i + more[0]); }));
    }
    const std::size_t full = dawn.bytes();
    for (int i = 0; i < 990; ++i) {
        all[static_cast<std::size_t>(i)].end();
    }
    dawn.shrink();
    CHECK(dawn.bytes() < full / 2);
    CHECK(dawn.publish().served() == 10);
    CHECK(heard.front() == 990);
    CHECK(heard.back() == 999);
    all.clear();
    dawn.shrink();
    CHECK(dawn.bytes() == empty);
    const subscription again = dawn.subscribe([] {});
    CHECK(dawn.publish().served() == 1);
}

TEST_CASE("shrink drops the lists of stages that nobody is in") {
    constexpr auto rules = courier::before(courier::ordinary, "rules");
    constexpr auto late = courier::after(courier::ordinary, "late");
    channel<Dawn> dawn{"watch.dawn"};
    const std::size_t empty = dawn.bytes();
    {
        const subscription a = dawn.subscribe([] {});
        const subscription b = dawn.subscribe([] {}, {.stage = rules});
        const subscription c = dawn.subscribe([] {}, {.stage = late});
        dawn.shrink();
        CHECK(dawn.publish().served() == 3);
    }
    dawn.shrink();
    CHECK(dawn.bytes() == empty);
    const subscription d = dawn.subscribe([] {}, {.stage = late});
    CHECK(dawn.publish().served() == 1);
}

namespace {

struct Hailed {
    using address = int;
    int order = 0;
};

} // namespace

TEST_CASE("contract 8: once warm, addresses, groups, relays and queries allocate nothing") {
    struct DepthAsked {
        using answer = int;
    };
    courier::addressed_channel<Hailed> hailed{"hailed"};
    channel<Dawn> dawn{"dawn"};
    courier::group<int> convoy{"convoy"};
    std::vector<courier::membership<int>> stays;
    subscriber in{"hands"};
    int heard = 0;
    for (int i = 20; i > 0; --i) { // joined in another order than subscribed
        in.subscribe(hailed.at(i), [&heard] { ++heard; });
        stays.insert(stays.begin(), convoy.join(21 - i));
    }
    in.subscribe(hailed, [&heard] { ++heard; });
    const courier::relay r{hailed, dawn, [](const Hailed&) { return Dawn{}; }};
    courier::query<DepthAsked> depth{"depth", 3};
    in.answer(depth, [&heard] { return heard; });
    const auto all = [&] {
        hailed.publish_to(7, {});
        hailed.publish_to(99, {});
        hailed.publish_to(convoy, {});
        hailed.publish({});
        CHECK(depth.ask({}).has_value());
    };
    all();
    const counted during;
    all();
    CHECK(during.since() == 0);
}

TEST_CASE("contract 8: once warm, outbox, timetable, inbox and frame driver allocate nothing") {
    courier::addressed_channel<Hailed> hailed{"a channel with a long name"};
    channel<Moored> moored{"another channel with a long name"};
    courier::outbox later{"later"};
    courier::inbox arrivals{later};
    courier::timetable hours{later};
    courier::frame_driver frame;
    frame.take_in(arrivals).advance(hours).deliver(later);
    const courier::poster<Moored> all{later, moored};
    const courier::poster<Moored> bounded{later, moored, {.limit = 10, .when_full = courier::when_full::drop_oldest}};
    const courier::addressed_poster<Hailed> latest{later, hailed, {.keep = courier::keep::one_per_address}};
    const courier::inlet<Moored> out{arrivals, moored};
    long heard = 0;
    subscriber in{"hands"};
    in.subscribe(moored, [&heard](const Moored& m) { heard += m.boat; });
    in.subscribe(moored, [&heard](std::span<const Moored> m) { heard += static_cast<long>(m.size()); });
    in.subscribe(hailed, [&heard] { ++heard; });
    const courier::timer gulls = hours.every(std::chrono::milliseconds(3), moored, {.boat = 1});
    const auto one_frame = [&] {
        for (int i = 0; i < 50; ++i) {
            all.post({.boat = i});
            bounded.post({.boat = i});
            latest.post_to(i % 7, {i});
            later.post(moored, {.boat = i});
            out.send({.boat = i});
            hours.after(std::chrono::milliseconds(1 + i % 5), all, {.boat = i}).release();
            courier::timer(hours.after(std::chrono::hours(1), all, {.boat = i})).end();
        }
        frame.run(std::chrono::milliseconds(16));
    };
    for (int i = 0; i < 200; ++i) {
        one_frame();
    }
    const counted during;
    for (int i = 0; i < 20; ++i) {
        one_frame();
    }
    CHECK(during.since() == 0);
    CHECK(heard > 0);
}
