// Every function of the user's that the library runs where something is delivered, now or later, ends the object
// that runs it, and then uses what it has captured; and every handle is assigned while the end of what it owned does
// something to it.
#include "ends_its_owner_scene.hpp"

using courier::group;

namespace ends_its_owner {

struct Asked {
    using answer = std::string;
    static constexpr auto answered = courier::answering::in_order;
    int n = 0;
};

struct Terrain {
    static inline std::function<void()> when_made;
    Terrain() { when_made(); }
    ~Terrain() { ++gone; }
    static inline int gone = 0;
};
struct Barges {
    explicit Barges(const Terrain&) {}
    ~Barges() { ++gone; }
    static inline std::function<void()> when_updated;
    void update() {
        if (when_updated) {
            std::exchange(when_updated, nullptr)();
        }
    }
    static inline int gone = 0;
};

enum class posture { ready, loaded };

const scene functions[] = {
    {"reactions, attached",
     [] {
         ended<courier::reactions<int>> r;
         make(r, "r", [e = std::make_shared<std::function<void()>>(r.end()), t = text](subscriber&, int) {
             (*e)();
             CHECK(t == text);
         });
         r->attach(1);
     }},
    {"reactions, attached and thrown out of",
     [] {
         ended<courier::reactions<int>> r;
         make(r, "r", [&r](subscriber&, int) {
             r.owner.reset();
             throw std::runtime_error("squall");
         });
         CHECK_THROWS_AS(r->attach(1), std::runtime_error);
     }},
    {"reactions, of a group that is there",
     [] {
         group<int> g{"g"};
         const auto a = g.join(1);
         const auto b = g.join(2);
         ended<courier::reactions<int>> r;
         make(r, "r", [&r](subscriber&, int) { r.owner.reset(); });
         r->follow(g);
     }},
    {"reactions, of a group that grows",
     [] {
         group<int> g{"g"};
         ended<courier::reactions<int>> r;
         make(r, "r", [&r, t = text](subscriber&, int) {
             r.owner.reset();
             CHECK(t == text);
         });
         r->follow(g);
         const auto a = g.join(1);
     }},
    {"a failure handler that replaces itself",
     [] {
         channel<Ping> c{"c"};
         const auto s = c.subscribe([] { throw 1; });
         c.on_failure([&c, t = text](const courier::failure&) {
             c.on_failure({});
             CHECK(t == text);
         });
         c.publish({1});
     }},
    {"a failure handler",
     [] {
         ended<channel<Ping>> c;
         make(c, "c");
         const auto s = c->subscribe([] { throw 1; });
         c->on_failure([e = c.end()](const courier::failure&) { e(); });
         c->publish({1});
     }},
    {"who reports to a tally",
     [] {
         channel<Ping> c{"c"};
         ended<courier::tally<int>> t;
         make(t, "t", std::initializer_list<int>{1, 2});
         t->reports_from(c, [e = t.end()](const Ping& p) {
             e();
             return p.n;
         });
         c.publish({1});
     }},
    {"progress of a tally, while members of a group come",
     [] {
         group<int> g{"g"};
         const auto a = g.join(1);
         const auto b = g.join(2);
         ended<courier::tally<int>> t;
         make(t, "t");
         subscriber in{"in"};
         in.subscribe(t->progress(), t.end());
         t->expect_group(g);
     }},
    {"progress of a tally, while one is withdrawn",
     [] {
         ended<courier::tally<int>> t;
         make(t, "t", std::initializer_list<int>{1, 2});
         subscriber in{"in"};
         in.subscribe(t->progress(), t.end());
         t->withdraw(1);
     }},
    {"a relay's change",
     [] {
         channel<Ping> a{"a"};
         channel<Ping> b{"b"};
         ended<courier::relay> r;
         make(r);
         *r = courier::relay(a, b, [e = r.end()](const Ping& p) {
             e();
             return p;
         });
         a.publish({1});
     }},
    {"a query's default",
     [] {
         ended<courier::query<Asked>> q;
         make(q, "q");
         q->set_default([e = q.end()](const Asked&) {
             e();
             return std::optional<std::string>(text);
         });
         static_cast<void>(q->ask({1}));
     }},
    {"a query's answer",
     [] {
         ended<courier::query<Asked>> q;
         make(q, "q");
         subscriber in{"in"};
         in.answer(*q, [e = q.end()](const Asked&) {
             e();
             return std::optional<std::string>(text);
         });
         static_cast<void>(q->ask_all({1}));
     }},
    {"a frame driver's budget",
     [] {
         channel<Ping> c{"c"};
         outbox o{"o"};
         ended<courier::frame_driver> f;
         make(f);
         f->deliver(o, {.spent = [e = f.end()]() { return e(), false; }});
         o.post(c, {1});
         o.post(c, {2});
         f->run(1s);
     }},
    {"a budget that leaves the frame driver",
     [] {
         channel<Ping> c{"c"};
         outbox o{"o"};
         courier::frame_driver f;
         f.deliver(o, {.spent = [&, t = text] {
                       f.leave(o);
                       f.deliver(o);
                       CHECK(t == text);
                       return false;
                   }});
         o.post(c, {1});
         o.post(c, {2});
         f.run(1s);
     }},
    {"an outbox's budget",
     [] {
         channel<Ping> c{"c"};
         ended<outbox> o;
         make(o, "o");
         o->post(c, {1});
         o->post(c, {2});
         o->deliver({.spent = [e = o.end()]() { return e(), false; }});
     }},
    {"an inbox's budget",
     [] {
         channel<Ping> c{"c"};
         auto o = std::make_unique<outbox>("o");
         ended<courier::inbox> i;
         make(i, *o, "i");
         const courier::inlet<Ping> from{*i, c};
         for (int k = 0; k < 200; ++k) {
             from.send({k});
         }
         i->take_in({.spent = [e = i.end(), &o]() { return e(), o.reset(), false; }});
     }},
    {"an inbox that wakes",
     [] {
         channel<Ping> c{"c"};
         outbox o{"o"};
         ended<courier::inbox> i;
         make(i, o, "i", courier::inbox_options{.wake = [&i, t = text] {
                  i.owner.reset();
                  CHECK(t == text);
              }});
         const courier::inlet<Ping> from{*i, c};
         from.send({1});
     }},
    {"a condition",
     [] {
         channel<Ping> c{"c"};
         ended<subscriber> in;
         make(in, "in");
         in->subscribe(c, [] {}, {.condition = [e = in.end()](const Ping&) { return e(), true; }});
         c.publish({1});
     }},
    {"a period",
     [] {
         channel<Ping> c{"c"};
         ended<subscriber> in;
         make(in, "in");
         in->subscribe(c, [] {}, {.during = [e = in.end()]() { return e(), true; }});
         c.publish({1});
     }},
    {"a timed call",
     [] {
         outbox o{"o"};
         timetable h{o};
         ended<subscriber> in;
         make(in, "in");
         in->every(h, 1s, in.end());
         h.advance(1s);
         o.deliver();
     }},
    {"the captures of a timed call that is due",
     [] {
         outbox o{"o"};
         timetable h{o};
         auto in = std::make_unique<subscriber>("in");
         int made = 0;
         in->every(h, 1s, [&made, w = at_its_end([&o] { o.deliver(); })] { ++made; });
         h.advance(1s);
         in.reset();
         CHECK(made == 0);
     }},
    {"who hears of a phase that is left",
     [] {
         ended<courier::phases<posture>> p;
         make(p, "p", posture::ready);
         subscriber in{"in"};
         in.subscribe(p->left(posture::ready), p.end());
         p->move_to(posture::loaded);
     }},
    {"who hears of a hub's channel",
     [] {
         ended<courier::hub> h;
         make(h, "h");
         subscriber in{"in"};
         in.subscribe(h->channel<Ping>(), h.end());
         in.subscribe(h->channel<Ping>(), [] { FAIL("it is served"); });
         h->channel<Ping>().publish({1});
     }},
    {"the policy of a poster",
     [] {
         channel<Ping> c{"c"};
         ended<outbox> o;
         make(o, "o");
         const poster<Ping> p(*o, c, {.combine = [e = o.end()](Ping&, const Ping&) { e(); }});
         p.post({1});
         p.post({2});
     }},
    {"the constructor of a system",
     [] {
         Terrain::gone = Barges::gone = 0;
         ended<courier::systems> s;
         make(s, "level");
         Terrain::when_made = s.end();
         static_cast<void>(s->get<Barges>());
         CHECK(Terrain::gone + Barges::gone == 2);
     }},
    {"the update of a system, in a handler",
     [] {
         Terrain::gone = Barges::gone = 0;
         Terrain::when_made = [] {};
         channel<Ping> frame{"frame"};
         ended<courier::systems> s;
         make(s, "level");
         static_cast<void>(s->get<Barges>());
         Barges::when_updated = s.end();
         const auto in = frame.subscribe([&s] { s->update(16ms); });
         frame.publish({});
         CHECK(Terrain::gone + Barges::gone == 2);
     }},
    {"what is asked for at once while time passes",
     [] {
         channel<Ping> c{"c"};
         outbox o{"o"};
         timetable h{o};
         int asked = 0;
         poster<Ping>* own = nullptr;
         poster<Ping> p(o, c, {.combine = [&](Ping&, const Ping&) {
                            CHECK(++asked < 100);
                            h.after(0s, *own, Ping{}).release();
                        }});
         own = &p;
         p.post({});
         h.after(1s, p, Ping{}).release();
         CHECK(h.advance(1s) == 1);
         CHECK(h.advance(0s) == 1);
     }},
};

/// The last owner of the object that has the handle is what the handle owns.
template <class Handle, class Make>
void replace_in_last_owner(Make made) {
    struct object {
        Handle handle;
        bool* gone;
        explicit object(bool& flag) : gone(&flag) {}
        ~object() { *gone = true; }
    };
    bool gone = false;
    auto owner = std::make_shared<object>(gone);
    object& it = *owner;
    it.handle = made(at_its_end([own = std::move(owner)]() mutable { own.reset(); }));
    it.handle = made(nullptr);
    CHECK(gone);
}

} // namespace ends_its_owner

using namespace ends_its_owner;

TEST_CASE("a function of the user's may end what runs it, and use its captures afterwards") {
    play_all(functions);
}

TEST_CASE("a handle may be assigned whatever the end of what it owned does") {
    channel<Flare> c{"c"};
    outbox o{"o"};
    timetable h{o};
    replace_in_last_owner<courier::subscription>([&](last_words w) { return c.subscribe([w] {}); });
    replace_in_last_owner<courier::timer>([&](last_words w) { return h.every(1s, c, Flare{1, w}); });

    group<int> hands{"hands"};
    subscriber in{"in"};
    auto crew = std::make_unique<courier::membership<int>>();
    in.subscribe(hands.left(), [&] { crew.reset(); });
    *crew = hands.join(1);
    *crew = hands.join(2);
    CHECK(hands.empty());

    auto m = hands.join(3);
    in.subscribe(hands.left(), [] { throw std::runtime_error("squall"); });
    m = hands.join(4);
    CHECK(hands.members() == std::vector<int>{4});
}

TEST_CASE("a handle that the end of what it owned assigns again is the newest one's, and nothing is left over") {
    channel<Ping> c{"c"};
    int heard = 0;
    {
        courier::subscription s;
        s = c.subscribe([w = at_its_end([&] { s = c.subscribe([&heard] { ++heard; }); })] {});
        s = c.subscribe([] {});
        CHECK(c.size() == 1);
    }
    CHECK(c.size() == 0);
    c.publish({1});
    CHECK(heard == 0);
}
