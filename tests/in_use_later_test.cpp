// Code of the user's that runs in the middle of what the library does, where payloads wait. It may do anything there.
#include "in_use_scene.hpp"

using namespace in_use;

TEST_CASE("never: a time too far away to be told does not come, and time does not run over") {
    channel<Tide> tide{"tide"};
    outbox later{"later"};
    timetable hours{later};
    hours.advance(1s);
    auto doom = hours.after(courier::never, tide, {1});
    auto beat = hours.every(courier::game_time::max() - 2s, tide, {2});
    CHECK(hours.advance(16ms) == 0);
    CHECK(doom.live());
    hours.advance(courier::never);
    CHECK(hours.now() == courier::never - courier::game_time(1));
    hours.advance(courier::never);
    CHECK(doom.live());
    CHECK(beat.live());
    doom.end();
    CHECK_FALSE(doom.live());
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
    CHECK(faults.told_once({"[courier.not-quiet]", "'tide'"}));
    CHECK(to->waiting() == 2); // one, and the next one to be combined with it
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
    hours.after(1s, fixed, {8}).release();
    hours.advance(2s);
    later.deliver();
    CHECK(seen.count() == 5);
}
