// Code of the user's that runs in the middle of what the library does, where payloads wait. It may do anything there.
#include "in_use_scene.hpp"

#include <doctest/doctest.h>

using namespace in_use;

TEST_CASE("a payload may be the last owner of the poster that it was posted with") {
    channel<Fired> fired{"guns.fired"};
    outbox later{"end of frame"};
    auto gun = std::make_shared<Gun>();
    gun->fired = poster<Fired>{later, fired};
    REQUIRE(gun->fired.post({gun}));
    gun.reset();
    CHECK(later.deliver().delivered == 1);
    CHECK(later.list().empty());
}

TEST_CASE("an outbox may end while what waits in it owns posters of its backlogs") {
    channel<Tide> tide{"tide"};
    channel<Flare> flares{"flares"};
    auto later = std::make_unique<outbox>("end of frame");
    int gone = 0;
    for (int i = 0; i < 4; ++i) {
        auto to_post = std::make_shared<poster<Tide>>(*later, tide);
        REQUIRE(later->post(flares, {i, at_its_end([&gone, to_post]() mutable {
                                         CHECK_FALSE(to_post->post({1}));
                                         to_post.reset();
                                         ++gone;
                                     })}));
    }
    SUBCASE("outside of a round") {
        later.reset();
    }
    SUBCASE("in the middle of one") {
        auto ends = flares.subscribe([&](const Flare& f) {
            if (f.colour == 1) {
                later.reset();
            }
        });
        later->deliver();
    }
    CHECK(later == nullptr);
    CHECK(gone == 4);
}

TEST_CASE("a payload that is destroyed may cancel its own timer") {
    channel<Flare> flares{"flares"};
    outbox later{"later"};
    timetable hours{later};
    std::optional<courier::timer_key> fuse;
    auto owner = at_its_end([&] { CHECK_FALSE(hours.cancel(*fuse)); });
    fuse = hours.after(1s, flares, {1, std::move(owner)});
    CHECK(hours.cancel(*fuse));
    courier::witness<Flare> seen{flares};
    for (int i = 1; i <= 3; ++i) {
        hours.after(i * 1s, flares, {i * 100});
    }
    CHECK(hours.advance(10s) == 3);
    later.deliver();
    REQUIRE(seen.count() == 3);
    CHECK(seen.latest().colour == 300);
    CHECK(hours.waiting() == 0);
}

TEST_CASE("a payload that is taken back may ask for other times") {
    channel<Flare> flares{"flares"};
    outbox later{"later"};
    timetable hours{later};
    int heard = 0;
    auto in = flares.subscribe([&] { ++heard; });
    auto owner = at_its_end([&] {
        for (int i = 0; i < 8; ++i) {
            hours.after(5s, flares, {i});
        }
    });
    const auto key = hours.after(1s, flares, {0, std::move(owner)});
    hours.cancel(key);
    hours.advance(10s);
    later.deliver();
    CHECK(heard == 8);
}

TEST_CASE("a timetable may end in what is destroyed by its end, and by the merging of what is due") {
    channel<Flare> flares{"flares"};
    outbox later{"later"};
    auto hours = std::make_unique<timetable>(later);
    SUBCASE("destroyed") {
        auto key = std::make_shared<courier::timer_key>();
        *key = hours->after(2s, flares, {2});
        hours->after(1s, flares, {1, at_its_end([raw = hours.get(), key] { raw->cancel(*key); })});
        hours.reset();
    }
    SUBCASE("combined") {
        poster<Flare> to{
            later, flares, {.keep = courier::keep::one, .combine = [&](Flare&, const Flare&) { hours.reset(); }}};
        for (int i = 0; i < 3; ++i) {
            hours->after(1s, to, {i});
        }
        hours->advance(2s);
        CHECK(later.waiting() == 1);
    }
    CHECK(hours == nullptr);
}

TEST_CASE("never: a time too far away to be told does not come, and time does not run over") {
    channel<Tide> tide{"tide"};
    outbox later{"later"};
    timetable hours{later};
    hours.advance(1s);
    const auto doom = hours.after(courier::never, tide, {1});
    auto beat = hours.every(courier::game_time::max() - 2s, tide, {2});
    CHECK(hours.advance(16ms) == 0);
    CHECK(hours.waits(doom));
    hours.advance(courier::never);
    CHECK(hours.now() == courier::never - courier::game_time(1));
    hours.advance(courier::never);
    CHECK(hours.waits(doom));
    CHECK(beat.live());
    CHECK(hours.cancel(doom));
}

TEST_CASE("a combining function may post through its own poster; what it posts is combined, too") {
    addressed_channel<Bite, int> bites{"bites"};
    outbox later{"later"};
    std::optional<addressed_poster<Bite>> to;
    int next = 100;
    int sum = 0;
    to.emplace(later, bites,
               courier::posting_options<Bite>{.keep = courier::keep::one_per_address,
                                              .combine = [&](Bite& kept, const Bite& newer) {
                                                  if (next < 140) {
                                                      to->post_to(++next, {0});
                                                  }
                                                  kept.crates += newer.crates;
                                              }});
    auto in = bites.subscribe([&](const Bite& b) { sum += b.crates; });
    for (int i = 0; i < 50; ++i) {
        to->post_to(1, {1});
    }
    CHECK(later.waiting() == 41);
    later.deliver();
    CHECK(sum == 50);
}

TEST_CASE("a combining function that posts again each time is told of, and nothing is lost") {
    const test::fault_catcher faults;
    channel<Tide> tide{"tide"};
    outbox later{"later"};
    std::optional<poster<Tide>> to;
    to.emplace(later, tide, courier::posting_options<Tide>{.combine = [&](Tide& kept, const Tide& newer) {
                   kept.height += newer.height;
                   to->post({1});
               }});
    to->post({1});
    to->post({1});
    REQUIRE(faults.caught().size() == 1);
    CHECK(faults.caught()[0].code == courier::fault_code::not_quiet);
    CHECK(test::contains(faults.caught()[0].message, "'tide'"));
    CHECK(to->waiting() == 2); // one, and the next one to be combined with it
}

TEST_CASE("a combining function may end poster, outbox and channel") {
    auto tide = std::make_unique<channel<Tide>>("tide");
    auto later = std::make_unique<outbox>("later");
    std::optional<poster<Tide>> to;
    int what = 0;
    to.emplace(*later, *tide, courier::posting_options<Tide>{.combine = [&](Tide&, const Tide&) {
        what != 1 ? to.reset() : void();
        what != 0 ? later.reset() : void();
        what == 2 ? tide.reset() : void();
    }});
    SUBCASE("the poster") {
        what = 0;
    }
    SUBCASE("the outbox") {
        what = 1;
    }
    SUBCASE("all") {
        what = 2;
    }
    to->post({1});
    to->post({2});
    if (later != nullptr) {
        later->deliver();
    }
}

TEST_CASE("what gives way may post through the same poster") {
    channel<Flare> flares{"flares"};
    outbox later{"later"};
    int heard = 0;
    int farewells = 0;
    auto in =
        flares.subscribe([&](const Flare& f) { heard += f.colour >= 0 ? 1 : 0, farewells += f.colour < 0 ? 1 : 0; });
    std::optional<poster<Flare>> to;
    const auto post_some = [&](int count) {
        for (int i = 0; i < count; ++i) {
            to->post({i, at_its_end([&] { to->post({-1}); })});
        }
    };
    SUBCASE("with the oldest dropped") {
        to.emplace(later, flares,
                   courier::posting_options<Flare>{.limit = 3, .when_full = courier::when_full::drop_oldest});
        post_some(12);
        later.deliver();
        CHECK(heard + farewells == 3);
    }
    SUBCASE("with the latest kept") {
        to.emplace(later, flares, courier::posting_options<Flare>{.keep = courier::keep::one});
        post_some(3);
        later.deliver();
        CHECK(heard + farewells == 1);
    }
    while (later.deliver().delivered != 0) {}
    to.reset();
}

TEST_CASE("a frame driver may end in its own frame") {
    channel<Tide> tide{"tide"};
    outbox later{"later"};
    auto drawing = std::make_unique<outbox>("drawing");
    timetable hours{later};
    auto frame = std::make_unique<courier::frame_driver>();
    frame->advance(hours).deliver(later).deliver(*drawing);
    auto ends = tide.subscribe([&] {
        frame.reset();
        drawing.reset();
    });
    later.post(tide, {1});
    frame->run(16ms);
    CHECK(frame == nullptr);
}

TEST_CASE("payloads whose moves throw are delivered whole, or not taken") {
    struct Crate {
        int number;
        int* countdown;
        Crate(int n, int* left) : number(n), countdown(left) {}
        Crate(const Crate& other) : number(other.number), countdown(other.countdown) { count(); }
        Crate(Crate&& other) : number(other.number), countdown(other.countdown) {
            count();
            other.number = -1;
        }
        Crate& operator=(const Crate& other) {
            count();
            number = other.number;
            return *this;
        }
        void count() const {
            if (*countdown > 0 && --*countdown == 0) {
                throw std::runtime_error("too heavy");
            }
        }
    };
    for (int at = 1; at < 120; ++at) {
        const int policy = at % 3;
        CAPTURE(at);
        channel<Crate> crates{"crates"};
        outbox later{"later"};
        courier::posting_options<Crate> how{};
        if (policy == 1) {
            how = {.limit = 3, .when_full = courier::when_full::drop_oldest};
        } else if (policy == 2) {
            how = {.keep = courier::keep::one};
        }
        const std::size_t most = policy == 0 ? 9 : policy == 1 ? 3 : 1;
        poster<Crate> to{later, crates, how};
        std::vector<int> heard;
        auto in = crates.subscribe([&](const Crate& c) { heard.push_back(c.number); });
        int left = at / 3;
        std::vector<int> taken;
        for (int i = 0; i < 9; ++i) {
            try {
                if (to.post(Crate(i, &left))) {
                    taken.push_back(i);
                }
            } catch (const std::runtime_error&) {}
        }
        left = 0;
        later.deliver();
        REQUIRE(heard.size() == std::min(most, taken.size()));
        CHECK(heard == std::vector<int>(taken.end() - static_cast<std::ptrdiff_t>(heard.size()), taken.end()));
    }
}

TEST_CASE("payloads with const members can be posted, combined and timed") {
    struct Fixed {
        const int number = 0;
    };
    channel<Fixed> fixed{"fixed"};
    outbox later{"later"};
    timetable hours{later};
    poster<Fixed> latest{later, fixed, {.keep = courier::keep::one}};
    poster<Fixed> few{later, fixed, {.limit = 2, .when_full = courier::when_full::drop_oldest}};
    courier::witness<Fixed> seen{fixed};
    for (int i = 1; i <= 5; ++i) {
        latest.post({i});
        few.post({i * 10});
    }
    later.post(fixed, {7});
    hours.after(1s, fixed, {8});
    hours.advance(2s);
    later.deliver();
    CHECK(seen.count() == 5);
}

TEST_CASE("what is posted may be destroyed, moved and copied in any backlog by itself") {
    struct Busy {
        std::function<void()>* act = nullptr;
        int number = 0;
        explicit Busy(std::function<void()>* what = nullptr, int n = 0) : act(what), number(n) {}
        Busy(Busy&& other) noexcept : act(other.act), number(other.number) { tell(); }
        Busy(const Busy& other) : act(other.act), number(other.number) { tell(); }
        Busy& operator=(Busy&& other) noexcept {
            act = other.act;
            number = other.number;
            tell();
            return *this;
        }
        ~Busy() { tell(); }
        void tell() const {
            if (act != nullptr && *act) {
                (*act)();
            }
        }
    };
    channel<Busy> busy{"busy"};
    outbox later{"later"};
    timetable hours{later};
    std::optional<poster<Busy>> to;
    SUBCASE("all") {
        to.emplace(later, busy);
    }
    SUBCASE("one") {
        to.emplace(later, busy, courier::posting_options<Busy>{.keep = courier::keep::one});
    }
    SUBCASE("few") {
        to.emplace(later, busy,
                   courier::posting_options<Busy>{.limit = 2, .when_full = courier::when_full::drop_oldest});
    }
    int depth = 0;
    int acts = 0;
    std::function<void()> act = [&] {
        if (depth != 0 || ++acts > 60) {
            return;
        }
        ++depth;
        switch (acts % 5) {
        case 0:
            to->post(Busy(&act, 100 + acts));
            break;
        case 1:
            hours.after(courier::game_time(acts), busy, Busy(&act, acts));
            break;
        case 2:
            later.deliver();
            break;
        case 3:
            hours.advance(courier::game_time(3));
            break;
        default:
            later.post(busy, Busy(&act, acts));
        }
        --depth;
    };
    int heard = 0;
    auto in = busy.subscribe([&] { ++heard; });
    for (int i = 0; i < 20; ++i) {
        to->post(Busy(&act, i));
        hours.advance(courier::game_time(1));
        later.deliver();
    }
    act = nullptr;
    hours.advance(1s);
    while (later.waiting() != 0) {
        later.deliver();
    }
    CHECK(heard > 0);
    CHECK(hours.waiting() == 0);
}
