// What handlers may do to the channel that is calling them, at every position.
#include "support.hpp"

#include <courier/channel.hpp>
#include <courier/subscriber.hpp>

#include <doctest/doctest.h>

#include <functional>
#include <memory>
#include <optional>
#include <utility>
#include <vector>

using courier::channel;
using courier::subscriber;
using courier::subscription;
using test::Dawn;

namespace {

constexpr int count = 6;

// A channel with `count` handlers, one of which does something the first time
// it is called. Each handler holds a token, so that use of freed state shows.
struct row {
    std::optional<channel<Dawn>> dawn{std::in_place, "watch.dawn"};
    std::vector<std::unique_ptr<subscriber>> owners;
    std::vector<subscription> single;
    test::trace heard;
    std::function<void()> action;
    int actor = 0;

    explicit row(int acting, bool with_subscribers = false) : actor(acting) {
        for (int i = 0; i < count; ++i) {
            const auto handler = [this, i, token = std::make_shared<int>(i)] {
                heard.push_back(*token);
                if (i == actor && action) {
                    const auto once = std::exchange(action, nullptr);
                    once();
                }
                heard.back() += 0 * *token; // the captures are still there
            };
            if (with_subscribers) {
                owners.push_back(std::make_unique<subscriber>("owner"));
                owners.back()->subscribe(*dawn, handler);
            } else {
                single.push_back(dawn->subscribe(handler));
            }
        }
    }
};

// Everybody from 0 to count - 1, without those for whom `left_out` holds.
template <class LeftOut>
test::trace all_but(LeftOut left_out) {
    test::trace expected;
    for (int i = 0; i < count; ++i) {
        if (!left_out(i)) {
            expected.push_back(i);
        }
    }
    return expected;
}

template <class Body>
void each_pair(Body body) {
    for (int actor = 0; actor < count; ++actor) {
        for (int target = 0; target < count; ++target) {
            CAPTURE(actor);
            CAPTURE(target);
            body(actor, target);
        }
    }
}

} // namespace

TEST_CASE("contract 2: subscribing inside a handler takes effect from the next publish") {
    for (int actor = 0; actor < count; ++actor) {
        CAPTURE(actor);
        row r(actor);
        // Enough to outgrow the array that is being walked, several times over.
        r.action = [&r] {
            for (int i = 0; i < 50; ++i) {
                r.single.push_back(r.dawn->subscribe([&r, i] { r.heard.push_back(100 + i); }));
            }
        };
        CHECK(r.dawn->publish().served() == count);
        CHECK(r.heard == all_but([](int) { return false; }));
        CHECK(r.dawn->publish().served() == count + 50);
    }
}

TEST_CASE("contract 2: a nested publish is the next one for what was just subscribed") {
    channel<Dawn> dawn{"watch.dawn"};
    test::trace heard;
    std::vector<subscription> all;
    int depth = 0;
    all.push_back(dawn.subscribe([&] {
        heard.push_back(depth);
        if (depth++ == 0) {
            for (int i = 0; i < 9; ++i) {
                all.push_back(dawn.subscribe([&heard] { heard.push_back(50); }));
            }
            CHECK(dawn.publish().served() == 11);
        }
    }));
    all.push_back(dawn.subscribe([&] { heard.push_back(40); }));
    CHECK(dawn.publish().served() == 2);
    CHECK(heard == test::trace{0, 1, 40, 50, 50, 50, 50, 50, 50, 50, 50, 50, 40});
}

TEST_CASE("contract 3: unsubscribing anyone inside a handler takes effect at once") {
    each_pair([](int actor, int target) {
        row r(actor);
        r.action = [&r, target] { r.single[static_cast<std::size_t>(target)].end(); };
        const auto expected = all_but([=](int i) { return i == target && target > actor; });
        CHECK(r.dawn->publish().served() == expected.size());
        CHECK(r.heard == expected);
        CHECK(r.dawn->publish().served() == count - 1);
    });
}

TEST_CASE("contract 3: unsubscribing after the walked array was outgrown") {
    each_pair([](int actor, int target) {
        row r(actor);
        r.action = [&r, target] {
            for (int i = 0; i < 20; ++i) {
                r.single.push_back(r.dawn->subscribe([] {}));
            }
            r.single[static_cast<std::size_t>(target)].end();
        };
        r.dawn->publish();
        CHECK(r.heard == all_but([=](int i) { return i == target && target > actor; }));
        CHECK(r.dawn->publish().served() == count + 20 - 1);
    });
}

TEST_CASE("contract 3: a handler that ended is not called later in the same publish, nested or not") {
    each_pair([](int actor, int target) {
        row r(actor);
        r.action = [&r, target] {
            r.single[static_cast<std::size_t>(target)].end();
            CHECK(r.dawn->publish().served() == count - 1);
        };
        r.dawn->publish();
        for (std::size_t i = static_cast<std::size_t>(actor) + 1; i < r.heard.size(); ++i) {
            CHECK(r.heard[i] != target);
        }
    });
}

TEST_CASE("pausing and resuming anyone inside a handler takes effect at once") {
    each_pair([](int actor, int target) {
        row r(actor);
        subscription& aimed_at = r.single[static_cast<std::size_t>(target)];
        r.action = [&] { aimed_at.pause(); };
        r.dawn->publish();
        CHECK(r.heard == all_but([=](int i) { return i == target && target > actor; }));
        r.heard.clear();
        CHECK(r.dawn->publish().served() == count - 1);
        r.heard.clear();
        if (target != actor) {
            r.action = [&] { aimed_at.resume(); };
            r.dawn->publish();
            CHECK(r.heard == all_but([=](int i) { return i == target && target < actor; }));
        }
    });
}

TEST_CASE("clearing and destroying a subscriber inside a handler, its own included") {
    for (const bool destroy : {false, true}) {
        each_pair([destroy](int actor, int target) {
            row r(actor, true);
            r.action = [&r, target, destroy] {
                auto& owner = r.owners[static_cast<std::size_t>(target)];
                destroy ? owner.reset() : owner->clear();
            };
            const auto expected = all_but([=](int i) { return i == target && target > actor; });
            CHECK(r.dawn->publish().served() == expected.size());
            CHECK(r.heard == expected);
            CHECK(r.dawn->publish().served() == count - 1);
        });
    }
}

TEST_CASE("destroying the channel inside a handler ends the publish after that handler") {
    for (int actor = 0; actor < count; ++actor) {
        CAPTURE(actor);
        row r(actor);
        r.action = [&r] {
            r.dawn.reset();
            for (const subscription& s : r.single) {
                CHECK_FALSE(s.live());
            }
        };
        const courier::receipt receipt = r.dawn->publish();
        CHECK(receipt.closed());
        CHECK(receipt.served() == static_cast<unsigned>(actor) + 1);
        CHECK(r.heard == all_but([=](int i) { return i > actor; }));
    }
}

TEST_CASE("destroying the channel inside a nested publish ends all publishes on it") {
    for (int actor = 0; actor < count; ++actor) {
        CAPTURE(actor);
        row r(actor);
        r.action = [&r] {
            r.action = [&r] { r.dawn.reset(); };
            CHECK(r.dawn->publish().closed());
        };
        CHECK(r.dawn->publish().closed());
        CHECK(r.heard.size() == 2 * static_cast<std::size_t>(actor) + 2);
    }
}

TEST_CASE("publishing again inside a handler is depth-first") {
    for (int actor = 0; actor < count; ++actor) {
        CAPTURE(actor);
        row r(actor);
        r.action = [&r] { CHECK(r.dawn->publish().served() == count); };
        CHECK(r.dawn->publish().served() == count);
        test::trace expected = all_but([=](int i) { return i > actor; });
        for (int i = 0; i < count; ++i) {
            expected.push_back(i);
        }
        for (int i = actor + 1; i < count; ++i) {
            expected.push_back(i);
        }
        CHECK(r.heard == expected);
    }
}

TEST_CASE("a handler may replace itself") {
    channel<Dawn> dawn{"watch.dawn"};
    test::trace heard;
    subscription s;
    s = dawn.subscribe([&, token = std::make_shared<int>(1)] {
        heard.push_back(*token);
        s = dawn.subscribe([&heard] { heard.push_back(2); });
        heard.push_back(*token);
    });
    CHECK(dawn.publish().served() == 1);
    CHECK(dawn.publish().served() == 1);
    CHECK(heard == test::trace{1, 1, 2});
}

TEST_CASE("everything may end inside one handler, and all begin anew") {
    channel<Dawn> dawn{"watch.dawn"};
    subscriber in{"bell"};
    int later = 0;
    for (int i = 0; i < 10; ++i) {
        in.subscribe(dawn, [&] {
            in.clear();
            in.subscribe(dawn, [&] { ++later; });
        });
    }
    CHECK(dawn.publish().served() == 1);
    CHECK(dawn.size() == 1);
    CHECK(dawn.publish().served() == 1);
    CHECK(later == 1);
}

TEST_CASE("captures whose destructors use the channel, freed in the middle of a publish") {
    channel<Dawn> dawn{"watch.dawn"};
    subscriber in{"bell"};
    int published_again = 0;
    struct parting_shot {
        channel<Dawn>* target;
        int* served;
        ~parting_shot() { *served += static_cast<int>(target->publish().served()) + 1; }
    };
    const subscription stays = dawn.subscribe([] {});
    in.subscribe(dawn, [&in, shot = std::make_shared<parting_shot>(&dawn, &published_again)] { in.clear(); });
    CHECK(dawn.publish().served() == 2);
    CHECK(published_again == 2); // one served, and one for having been there
    CHECK(dawn.publish().served() == 1);
}

TEST_CASE("a capture that ends the channel when it is freed in the middle of a publish") {
    std::optional<channel<Dawn>> dawn{std::in_place, "watch.dawn"};
    subscriber in{"bell"};
    struct last_one_out {
        std::optional<channel<Dawn>>* target;
        ~last_one_out() { target->reset(); }
    };
    in.subscribe(*dawn, [&in, last = std::make_shared<last_one_out>(&dawn)] { in.clear(); });
    CHECK(dawn->publish().closed());
    CHECK_FALSE(dawn.has_value());
}

TEST_CASE("shrinking and reserving inside a handler do no harm") {
    for (int actor = 0; actor < count; ++actor) {
        row r(actor);
        r.action = [&r] {
            r.dawn->shrink();
            r.dawn->reserve(100);
            r.single.back().end();
            r.dawn->shrink();
        };
        CHECK(r.dawn->publish().served() == (actor == count - 1 ? count : count - 1));
        r.dawn->shrink();
        CHECK(r.dawn->publish().served() == count - 1);
    }
}
