// Every operation that takes or ends one of many, with as many as are asked for. Usage:
// growth (the names) | growth NAME COUNT. Run under valgrind by tests/growth/check.
#include <courier/courier.hpp>

#include <algorithm>
#include <charconv>
#include <chrono>
#include <cstdint>
#include <cstdio>
#include <cstring>
#include <memory>
#include <span>
#include <string>
#include <type_traits>
#include <vector>

namespace {

using namespace std::chrono_literals;

struct Ping {
    int n = 0;
};
struct Hail {
    using address = int;
    int n = 0;
};

/// The numbers below `count` in an order that is always the same and looks like none.
std::vector<std::size_t> shuffled(std::size_t count) {
    std::vector<std::size_t> all(count);
    for (std::size_t i = 0; i < count; ++i) {
        all[i] = i;
    }
    std::uint64_t state = 42;
    for (std::size_t i = count; i > 1; --i) {
        state = state * 6364136223846793005U + 1442695040888963407U;
        std::swap(all[i - 1], all[(state >> 33U) % i]);
    }
    return all;
}

template <class Make>
auto made(std::size_t count, Make make) {
    const auto one = [&](std::size_t i) {
        if constexpr (std::is_invocable_v<Make&, std::size_t>) {
            return make(i);
        } else {
            return make();
        }
    };
    std::vector<decltype(one(0))> all;
    for (std::size_t i = 0; i < count; ++i) {
        all.push_back(one(i));
    }
    return all;
}

template <class Act>
void in_order(std::size_t count, Act act) {
    for (std::size_t i = 0; i < count; ++i) {
        act(i);
    }
}

template <class Act>
void at_random(std::size_t count, Act act) {
    for (const std::size_t i : shuffled(count)) {
        act(i);
    }
}

template <class Ask>
void end_by_key(std::size_t count, Ask ask) {
    courier::subscriber in{"in"};
    const std::vector<courier::subscription_key> keys = made(count, [&] { return ask(in); });
    at_random(count, [&](std::size_t i) {
        if (!in.live(keys[i]) || !in.end(keys[i])) {
            std::puts("a key has been lost");
        }
    });
}

struct operation {
    const char* name;
    void (*run)(std::size_t count);
};

constexpr operation operations[] = {
    {"subscriptions-ended-at-random",
     [](std::size_t count) {
         courier::channel<Ping> c{"c"};
         auto all = made(count, [&] { return c.subscribe([] {}); });
         at_random(count, [&](std::size_t i) { all[i].end(); });
     }},
    {"keys-of-subscriptions",
     [](std::size_t count) {
         courier::channel<Ping> c{"c"};
         end_by_key(count,
                    [&](courier::subscriber& in) { return in.subscribe(c, [&c] { static_cast<void>(c.size()); }); });
     }},
    {"keys-of-timers",
     [](std::size_t count) {
         courier::outbox o{"o"};
         courier::timetable h{o};
         end_by_key(count, [&](courier::subscriber& in) { return in.after(h, 1s, [] {}); });
     }},
    {"keys-of-refreshers",
     [](std::size_t count) {
         courier::state<int> s{"s"};
         end_by_key(count,
                    [&](courier::subscriber& in) { return in.keep_current([&s] { static_cast<void>(s.read()); }); });
     }},
    {"leaving-one-channel-of-many",
     [](std::size_t count) {
         courier::channel<Ping> a{"a"};
         courier::channel<Ping> b{"b"};
         courier::subscriber in{"in"};
         in_order(count, [&](std::size_t i) { in.subscribe(i % 10 == 0 ? a : b, [i] { static_cast<void>(i); }); });
         if (in.leave(a) != (count + 9) / 10) {
             std::puts("not all have left");
         }
     }},
    {"clearing-a-subscriber",
     [](std::size_t count) {
         courier::channel<Ping> c{"c"};
         courier::subscriber in{"in"};
         in_order(count, [&](std::size_t i) { in.subscribe(c, [i] { static_cast<void>(i); }); });
         in.clear();
     }},
    {"addresses-that-come-and-go",
     [](std::size_t count) {
         courier::addressed_channel<Hail> c{"c"};
         auto all = made(count, [&](std::size_t i) { return c.at(static_cast<int>(i)).subscribe([] {}); });
         at_random(count, [&](std::size_t i) { all[i].end(); });
     }},
    {"members-that-come-and-go",
     [](std::size_t count) {
         courier::group<int> g{"g"};
         auto all = made(count, [&](std::size_t i) { return g.join(static_cast<int>(i)); });
         at_random(count, [&](std::size_t i) { all[i].end(); });
     }},
    {"reports-to-a-tally",
     [](std::size_t count) {
         courier::tally<int> t{"t"};
         in_order(count, [&](std::size_t i) { t.expect(static_cast<int>(i)); });
         at_random(count, [&](std::size_t i) {
             i % 2 == 0 ? void(t.report(static_cast<int>(i))) : void(t.withdraw(static_cast<int>(i)));
         });
     }},
    {"payloads-that-are-cancelled",
     [](std::size_t count) {
         courier::channel<Ping> c{"c"};
         courier::outbox o{"o"};
         courier::timetable h{o};
         std::vector<courier::timer> all;
         at_random(count, [&](std::size_t i) { all.push_back(h.after(std::chrono::milliseconds(i), c, {1})); });
         at_random(count, [&](std::size_t i) { all[i].end(); });
     }},
    {"payloads-that-fall-due",
     [](std::size_t count) {
         courier::channel<Ping> c{"c"};
         courier::outbox o{"o"};
         courier::timetable h{o};
         at_random(count, [&](std::size_t i) { h.after(std::chrono::milliseconds(i), c, {1}).release(); });
         for (std::size_t i = 0; i < count; i += 10) {
             h.advance(10ms);
             o.deliver();
         }
     }},
    {"one-of-each-address-in-an-outbox",
     [](std::size_t count) {
         courier::addressed_channel<Hail> c{"c"};
         courier::outbox o{"o"};
         const courier::addressed_poster<Hail> p(o, c, {.keep = courier::keep::one_per_address});
         for (int round = 0; round < 2; ++round) {
             at_random(count, [&](std::size_t i) { p.post_to(static_cast<int>(i), {1}); });
         }
         o.deliver();
     }},
    {"channels-posted-to",
     [](std::size_t count) {
         courier::outbox o{"o"};
         std::vector<std::unique_ptr<courier::channel<Ping>>> all;
         for (std::size_t i = 0; i < count; ++i) {
             all.push_back(std::make_unique<courier::channel<Ping>>("c"));
             o.post(*all.back(), {1});
         }
         o.deliver();
         all.clear();
         o.deliver();
     }},
    {"values-read-in-another-order",
     [](std::size_t count) {
         auto all = made(count, [&] { return std::make_unique<courier::state<int>>("s"); });
         courier::state<int> turns{"turns"};
         const std::vector<std::size_t> orders[] = {shuffled(count), [count] {
                                                        auto back = shuffled(count);
                                                        std::reverse(back.begin(), back.end());
                                                        return back;
                                                    }()};
         courier::subscriber in{"in"};
         int sum = 0;
         in.keep_current([&] {
             for (const std::size_t i : orders[turns.read() % 2]) {
                 sum += all[i]->read();
             }
         });
         for (int i = 1; i < 5; ++i) {
             turns.set(i);
         }
     }},
    {"values-that-go-at-random",
     [](std::size_t count) {
         auto all = made(count, [&] { return std::make_unique<courier::state<int>>("s"); });
         courier::subscriber in{"in"};
         int sum = 0;
         in.keep_current([&] {
             for (const auto& one : all) {
                 sum += one->read();
             }
         });
         at_random(count, [&](std::size_t i) { all[i].reset(); });
         in.clear(); // before it reads what has gone
     }},
    {"refreshers-of-one-state",
     [](std::size_t count) {
         courier::state<int> s{"s"};
         std::vector<std::unique_ptr<courier::subscriber>> all;
         for (std::size_t i = 0; i < count; ++i) {
             all.push_back(std::make_unique<courier::subscriber>("in"));
             all.back()->keep_current([&s] { static_cast<void>(s.read()); });
         }
         s.set(1);
         at_random(count, [&](std::size_t i) { all[i].reset(); });
     }},
    {"sequences-that-wait-and-end",
     [](std::size_t count) {
         courier::channel<Ping> c{"c"};
         struct story {
             static courier::sequence<void> of(courier::channel<Ping>& c) { co_await courier::next(c); }
         };
         end_by_key(count, [&](courier::subscriber& in) { return in.start(story::of(c)); });
     }},
    {"objects-with-reactions",
     [](std::size_t count) {
         courier::channel<Ping> c{"c"};
         courier::reactions<int> r{"r", [&](courier::subscriber& in, int) { in.subscribe(c, [] {}); }};
         in_order(count, [&](std::size_t i) { r.attach(static_cast<int>(i)); });
         at_random(count, [&](std::size_t i) { r.detach(static_cast<int>(i)); });
     }},
    {"channels-that-come-and-go",
     [](std::size_t count) {
         auto all = made(
             count, [&](std::size_t i) { return std::make_unique<courier::channel<Ping>>("c" + std::to_string(i)); });
         at_random(count, [&](std::size_t i) { all[i].reset(); });
     }},
    {"audit-of-many-channels",
     [](std::size_t count) {
         courier::ledger books{"l"};
         books.attach_everything();
         std::vector<std::unique_ptr<courier::channel<Ping>>> all;
         std::vector<std::unique_ptr<courier::subscriber>> who;
         for (std::size_t i = 0; i < count; ++i) {
             all.push_back(std::make_unique<courier::channel<Ping>>("c" + std::to_string(i)));
             who.push_back(std::make_unique<courier::subscriber>("in" + std::to_string(i)));
             who.back()->subscribe(*all.back(), [] {});
             all.back()->publish({1});
         }
         static_cast<void>(courier::audit(books.read()));
     }},
    {"a-batch-with-stops",
     [](std::size_t count) {
         courier::channel<Ping> c{"c"};
         const auto stops = c.subscribe([](const Ping&) { return courier::verdict::stop; });
         const auto spans = c.subscribe([](std::span<const Ping>) {});
         const std::vector<Ping> all(count);
         c.publish_all(all);
     }},
};

} // namespace

int main(int argc, char** argv) {
    for (const operation& one : operations) {
        if (argc < 3) {
            std::puts(one.name);
            continue;
        }
        std::size_t count = 0;
        std::from_chars(argv[2], argv[2] + std::strlen(argv[2]), count);
        if (std::strcmp(argv[1], one.name) == 0) {
            one.run(count);
            return 0;
        }
    }
    return argc < 3 ? 0 : 2;
}
