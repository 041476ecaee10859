// The same where values, pipelines and sequences run it.
#include "ends_its_owner_scene.hpp"

namespace ends_its_owner {

courier::sequence<void> waits_for_a_test(channel<Ping>& c, ended<subscriber>& in) {
    const auto test = [e = in.end()](const Ping&) {
        e();
        return true;
    };
    co_await next(c, test);
    FAIL("it goes on");
}
courier::sequence<void> waits_until(courier::state<int>& s, ended<subscriber>& in) {
    const auto test = [&s, e = in.end()]() {
        if (s.read() == 1) {
            e();
        }
        return s.read() == 1;
    };
    co_await courier::until(test);
    FAIL("it goes on");
}
courier::sequence<void> waits_until_of_formula(courier::formula<int>& f, courier::state<int>& s) {
    co_await courier::until([&] { return f.read() > 5 && s.read() > 0; });
    FAIL("it goes on");
}

struct Item {
    last_words token;
    friend bool operator==(const Item& a, const Item& b) { return a.token == b.token; }
};

/// A part of a level that ends the level when it is paused, or when it is resumed.
struct moody {
    std::function<void()> end;
    bool when_resumed;
    bool is_paused = false;
    void pause() {
        is_paused = true;
        if (!when_resumed) {
            resume();
        }
    }
    void resume() {
        const std::function<void()> kept = end; // this is destroyed meanwhile
        kept();
    }
    [[nodiscard]] bool paused() const { return is_paused; }
};

const scene flow_functions[] = {
    {"a level's function",
     [] {
         courier::hub game{"game"};
         ended<courier::level> l;
         make(l, "l", game, [e = std::make_shared<std::function<void()>>(l.end()), t = text](courier::level& here) {
             here.make<subscriber>("part");
             (*e)();
             CHECK(t == text);
         });
         l->begin();
     }},
    {"parts of a level, paused and resumed",
     [] {
         for (const bool when_resumed : {false, true}) {
             courier::hub game{"game"};
             ended<courier::level> l;
             make(l, "l", game, [&l, when_resumed](courier::level& here) {
                 here.make<subscriber>("first");
                 here.keep(moody{l.end(), when_resumed});
                 here.make<subscriber>("last");
             });
             l->begin();
             l->sleep();
             if (l.owner != nullptr) {
                 l->wake();
             }
             CHECK(l.owner == nullptr);
         }
     }},
    {"the test of a wait",
     [] {
         channel<Ping> c{"c"};
         ended<subscriber> in;
         make(in, "in");
         in->start(waits_for_a_test(c, in));
         c.publish({1});
     }},
    {"the test of until()",
     [] {
         courier::state<int> s{"s", 0};
         ended<subscriber> in;
         make(in, "in");
         in->start(waits_until(s, in));
         s.set(1);
     }},
    {"a formula that until() reads",
     [] {
         courier::state<int> s{"s", 0};
         channel<Ping> c{"c"};
         ended<subscriber> in;
         make(in, "in");
         courier::formula<int> f{"f", [&] { return s.read() == 1 ? (c.publish({1}), 10) : 0; }};
         subscriber other{"o"};
         other.subscribe(c, in.end());
         in->start(waits_until_of_formula(f, s));
         s.set(1);
     }},
    {"a formula that a refresher reads",
     [] {
         courier::state<int> hull{"hull", 3};
         channel<Ping> sunk{"sunk"};
         courier::formula<int> left{"left", [&] { return hull.read() == 0 ? (sunk.publish({}), 0) : hull.read(); }};
         ended<subscriber> in;
         make(in, "in");
         int runs = 0;
         in->keep_current([&] { ++runs, static_cast<void>(left.read()); });
         subscriber level{"level"};
         level.subscribe(sunk, in.end());
         hull.set(0);
         CHECK(runs == 1);
     }},
    {"an item of a list that is cleared",
     [] {
         ended<courier::announced_list<Item>> l;
         make(l, "l");
         l->add({});
         l->add({at_its_end(l.end())});
         l->clear();
     }},
    {"the edit of a state",
     [] {
         ended<courier::state<int>> s;
         make(s, "s", 1);
         CHECK(!s->edit([e = s.end()](int& v) { v = 2, e(); }));
     }},
    {"a pipeline's function",
     [] {
         channel<Ping> c{"c"};
         const auto scene_of = [&c](auto adapted) {
             ended<subscriber> in;
             make(in, "in");
             in->subscribe(adapted([&in, t = text] {
                               in.owner.reset();
                               CHECK(t == text);
                           }),
                           [] { FAIL("it is served"); });
             c.publish({1});
         };
         scene_of([&c](auto e) { return c | courier::filter([e](const Ping&) { return e(), true; }); });
         scene_of([&c](auto e) { return c | courier::transform([e](const Ping&) { return e(), 1; }); });
         scene_of([&c](auto e) { return c | courier::accumulate(0, [e](int a, const Ping&) { return e(), a; }); });
         scene_of([&c](auto e) { return c | courier::take_while([e](const Ping&) { return e(), true; }); });
         scene_of([&c](auto e) { return c | courier::drop_while([e](const Ping&) { return e(), false; }); });
         scene_of([&c](auto e) { return c | courier::only_changes([e](const Ping& p) { return e(), p.n; }); });
         scene_of([&c](auto e) { return merge(c, c) | courier::transform([e](const Ping&) { return e(), 1; }); });
     }},
    {"the local of a sequence, in what ends with its waits",
     [] {
         channel<Ping> never{"never"};
         channel<Ping> heard{"heard"};
         struct story {
             static courier::sequence<int> inner(channel<Ping>& never, channel<Ping>& heard) {
                 const farewell f([&heard] { heard.publish({1}); });
                 co_await next(never);
                 co_return 1;
             }
             static courier::sequence<int> listening(channel<Ping>& heard) {
                 co_await next(heard);
                 FAIL("it goes on");
                 co_return 1;
             }
             static courier::sequence<void> outer(channel<Ping>& never, channel<Ping>& heard) {
                 co_await courier::when_all(inner(never, heard), next(heard), listening(heard));
                 FAIL("it goes on");
             }
         };
         auto in = std::make_unique<subscriber>("in");
         in->start(story::outer(never, heard));
         in.reset();
     }},
};

} // namespace ends_its_owner

TEST_CASE("a function of values, pipelines and sequences may end what runs it, and use its captures afterwards") {
    ends_its_owner::play_all(ends_its_owner::flow_functions);
}
