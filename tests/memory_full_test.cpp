// Every operation, with each of its allocations failing in turn: it leaves
// things as they were, or does what it says all the same; and whatever happened,
// everything works afterwards.
#include "allocations.hpp"
#include "memory_full_world.hpp"

using namespace memory_full;

namespace {

struct operation {
    const char* name;
    std::function<void(world&)> act;
    /// What it does is told part by part, such as by handlers, so that a part may be done when it throws.
    bool in_parts = false;
    /// Put in order before it, with memory.
    std::function<void(world&)> before = [](world&) {};
};

// Where assertions of the test's own would take memory.
void must(bool holds) {
    if (!holds) {
        throw std::logic_error("a true answer was expected");
    }
}

const std::vector<operation>& operations() {
    static const std::vector<operation> all{
        {"subscribe", [](world& w) { w.in->subscribe(*w.tide, [](const Tide&) {}); }},
        {"subscribe much",
         [](world& w) {
             std::array<char, 200> much{};
             w.in->subscribe(*w.tide, [much](const Tide&) { static_cast<void>(much); });
         }},
        {"subscribe with options",
         [](world& w) {
             w.in->subscribe(*w.tide, [text = std::string(90, 'a')](const Tide&) {},
                             {.stage = courier::before(courier::ordinary, "early"),
                              .times = 3,
                              .condition = [text = std::string(80, 'b')](const Tide&) { return text.size() > 9; }});
         }},
        {"subscribe at an address",
         [](world& w) { w.in->subscribe(w.hails->at("south of the reef, where it is deep"), [](const Hail&) {}); }},
        {"subscribe a span", [](world& w) { w.in->subscribe(*w.tide, [](std::span<const Tide>) {}); }},
        {"subscribe a verdict",
         [](world& w) { w.in->subscribe(*w.tide, [](const Tide&) { return courier::verdict::go_on; }); }},
        {"subscribe to a state", [](world& w) { w.in->subscribe(*w.depth, [] {}); }},
        {"subscribe to a new state",
         [](world& w) {
             w.kept.reserve(8);
             const auto made = std::make_shared<courier::state<int>>(long_name, 3);
             w.in->subscribe(*made, [] {});
             w.kept.push_back(made);
         }},
        {"many subscriptions",
         [](world& w) {
             std::vector<courier::subscription> many;
             for (int i = 0; i < 40; ++i) {
                 many.push_back(w.tide->subscribe([i, text = std::string(40, 'c')] { static_cast<void>(i); }));
             }
         }},
        {"pipeline of one", [](world& w) { w.in->subscribe(*w.tide | courier::slide(3) | courier::take(2), [] {}); }},
        {"pipeline of several",
         [](world& w) {
             w.in->subscribe(courier::merge(*w.tide, *w.tide | courier::quiet_for(*w.hours, 3ms)) |
                                 courier::beside(*w.tide),
                             [] {});
         }},
        {"start a sequence", [](world& w) { w.in->start(waits(w)); }},
        {"keep current", [](world& w) { w.in->keep_current([&w] { static_cast<void>(w.depth->read()); }); }},
        {"keep current in rounds",
         [](world& w) { w.in->keep_current(*w.later, [&w] { static_cast<void>(w.marks->read()); }); }},
        {"a channel", [](world& w) { make<courier::channel<Tide>>(w, long_name); }},
        {"an outbox", [](world& w) { make<courier::outbox>(w, long_name); }},
        {"an outbox that is used",
         [](world& w) {
             courier::outbox own{long_name};
             own.post(*w.tide, {0});
             own.deliver();
         }},
        {"a state", [](world& w) { make<courier::state<int>>(w, long_name, 1); }},
        {"a subscriber", [](world& w) { make<courier::subscriber>(w, long_name); }},
        {"a hub",
         [](world& w) {
             courier::hub board{long_name};
             static_cast<void>(board.channel<test::Moored>().publish({1, 2}));
             static_cast<void>(w);
         }},
        {"a relay",
         [](world& w) {
             courier::relay forwards{*w.tide, *w.to};
             must(forwards.live());
         }},
        {"a tally", [](world& w) { make<courier::tally<int>>(w, long_name); }},
        {"a ledger that comes second", [](world&) { courier::ledger other{long_name}; }},
        {"publish", [](world& w) { w.tide->publish({1}); }, true},
        {"publish to an address",
         [](world& w) {
             w.hails->publish_to("north", {"x", 1});
         },
         true},
        {"publish to a group",
         [](world& w) {
             courier::addressed_channel<Tide, int> crew{"crew"};
             auto one = crew.at(1).subscribe([] {});
             crew.publish_to(*w.convoy, {1});
         },
         true},
        {"publish with stops for spans",
         [](world& w) {
             const Tide three[] = {{1}, {2}, {3}};
             w.tide->publish_all(three);
         },
         true,
         [](world& w) {
             w.in->subscribe(*w.tide, [](const Tide&) { return courier::verdict::stop; });
             w.in->subscribe(*w.tide, [](std::span<const Tide>) {});
         }},
        {"publish what is retained",
         [](world& w) {
             w.hails->publish_to("north", {std::string(70, 'd'), 1});
         },
         true, [](world& w) { w.hails->retain_latest(); }},
        {"publish, and all throw",
         [](world& w) {
             try {
                 w.tide->publish({0});
             } catch (const std::runtime_error&) {}
         },
         true,
         [](world& w) {
             w.tide->on_failure([text = std::string(60, 'e')](const courier::failure&) {});
             w.in->subscribe(*w.tide, [] { throw std::runtime_error("squall"); });
         }},
        {"post on what is new",
         [](world& w) {
             w.kept.reserve(8);
             auto made = std::make_shared<courier::channel<Tide>>("new");
             w.later->post(*made, {1});
             w.kept.push_back(std::move(made));
         }},
        {"post", [](world& w) { must(w.to->post({1})); }},
        {"post text",
         [](world& w) {
             must(w.later->post_to(*w.hails, "north", {std::string(50, 'f'), 1}));
         }},
        {"post per address",
         [](world& w) {
             must(w.latest->post_to("one of those far away", {std::string(50, 'g'), 1}));
         },
         false,
         [](world& w) {
             w.latest->post_to("another one that is far away", {"before", 0});
         }},
        {"post one more per address",
         [](world& w) {
             must(w.latest->post_to("one of those far away", {std::string(50, 'g'), 1}));
         },
         false,
         [](world& w) {
             w.latest->post_to("one of those far away", {"before", 0});
         }},
        {"post where the oldest is dropped",
         [](world& w) {
             must(w.few->post_to("north", {std::string(50, 'h'), 1}));
         },
         false,
         [](world& w) {
             for (int i = 0; i < 3; ++i) {
                 w.few->post_to("north", {"before", i});
             }
         }},
        {"a poster", [](world& w) { make<courier::poster<Tide>>(w, *w.later, *w.tide); }},
        {"deliver", [](world& w) { w.later->deliver(); }, true,
         [](world& w) {
             w.to->post({1});
             w.latest->post_to("north", {"x", 1});
         }},
        {"after", [](world& w) { w.hours->after(3ms, *w.tide, {1}).release(); }},
        {"a call after a while",
         [](world& w) { w.in->after(*w.hours, 3ms, [text = std::string(60, 'k')] { static_cast<void>(text); }); }},
        {"a call again and again", [](world& w) { w.in->every(*w.hours, 3ms, [] {}); }},
        {"phases",
         [](world&) {
             courier::phases<watch> hours{long_name, watch::calm, {{watch::calm, {watch::storm}}}};
             const auto s = hours.entered(watch::storm).subscribe([] {});
             must(static_cast<bool>(hours.move_to(watch::storm)));
         }},
        {"systems",
         [](world&) {
             courier::systems reef{long_name};
             reef.get<vane>();
             const courier::team storm = reef.add<squall>(long_name);
             reef.update(1ms);
         }},
        {"a level",
         [](world& w) {
             courier::hub game{long_name};
             courier::level reef{long_name, game, [&w](courier::level& here) {
                                     here.make<courier::subscriber>(long_name).subscribe(*w.tide, [] {});
                                     here.keep(w.tide->subscribe([] {}));
                                 }};
             reef.begin();
             reef.sleep();
             reef.restart();
         }},
        {"reactions",
         [](world& w) {
             courier::reactions<int> mast{long_name,
                                          [&w](courier::subscriber& in, int) { in.subscribe(*w.tide, [] {}); }};
             must(mast.attach(3));
         }},
        {"a tally that somebody leaves in an event",
         [](world& w) {
             courier::tally<int> ready{long_name, {1, 2}};
             const auto s = w.tide->subscribe([&ready] { ready.withdraw(1); });
             w.tide->publish({1});
         }},
        {"after, for an address",
         [](world& w) {
             w.hours->after_to(3ms, *w.hails, "north", {std::string(50, 'i'), 1}).release();
         }},
        {"many times",
         [](world& w) {
             for (int i = 0; i < 200; ++i) {
                 w.hours->after(courier::game_time(i * 1'000'000), *w.tide, {0}).release();
             }
         },
         true},
        {"every",
         [](world& w) {
             w.kept.reserve(8);
             auto place = std::make_shared<courier::timer>();
             *place = w.hours->every(3ms, *w.tide, {1});
             w.kept.push_back(std::move(place));
         }},
        {"advance", [](world& w) { w.hours->advance(40ms); }, true,
         [](world& w) {
             for (int i = 0; i < 100; ++i) {
                 w.hours->after(courier::game_time(i * 1'000'000), *w.hails, {"far", i}).release();
             }
             auto place = std::make_shared<courier::timer>();
             *place = w.hours->every(3ms, *w.tide, {1});
             w.kept.push_back(std::move(place));
         }},
        {"send", [](world& w) { must(w.send->send({1})); }},
        {"take in", [](world& w) { w.arrivals->take_in(); }, true,
         [](world& w) {
             for (int i = 0; i < 300; ++i) {
                 w.send->send({1});
             }
         }},
        {"a sender", [](world& w) { make<courier::inlet<Tide>>(w, *w.arrivals, *w.tide); }},
        {"an inbox", [](world& w) { make<courier::inbox>(w, *w.later, long_name); }},
        {"set", [](world& w) { w.depth->set(5); }, true},
        {"set together",
         [](world& w) {
             courier::together([&] {
                 w.depth->set(5);
                 w.marks->add("x");
             });
         },
         true},
        {"add to a list", [](world& w) { w.marks->add(std::string(50, 'j')); }, true},
        {"change a map", [](world& w) { w.berths->set(3, std::string(50, 'k')); }, true},
        {"join", [](world& w) { make<courier::membership<int>>(w, w.convoy->join(5)); }},
        {"expect", [](world& w) { w.ready->expect(5); }, true},
        {"report", [](world& w) { w.ready->report(5); }, true, [](world& w) { w.ready->expect(5); }},
        {"answer", [](world& w) { w.in->answer(*w.asked, [text = std::string(60, 'l')] { return 3; }); }},
        {"another default", [](world& w) { w.asked->set_default([text = std::string(60, 'm')] { return 4; }); }},
        {"ask all", [](world& w) { must(w.asked->ask_all({1}).size() == 1); }},
        {"a frame", [](world& w) { w.frame->run(3ms); }, true,
         [](world& w) {
             w.send->send({1});
             w.hours->after(1ms, *w.tide, {1}).release();
         }},
        {"shrink", [](world& w) { w.tide->shrink(); }},
        {"a fault", [](world& w) { auto none = w.tide->subscribe(std::function<void(const Tide&)>{}); }},
    };
    return all;
}

// One run; true when an allocation has failed in it.
bool run(const operation& op, bool with_ledger, long which, bool for_good) {
    world w(with_ledger);
    op.before(w);
    const std::vector<long> before = w.seen();
    bool thrown = false;
    bool happened = false;
    {
        test::memory_full full(which, for_good);
        try {
            op.act(w);
        } catch (const std::bad_alloc&) {
            thrown = true;
        }
        happened = full.happened();
        full.end();
    }
    if (thrown && !op.in_parts) {
        CHECK(w.seen() == before);
    }
    w.work();
    return happened;
}

} // namespace

TEST_CASE("memory: each allocation of every operation fails in turn") {
    const test::fault_catcher faults;
    long points = 0;
    for (const operation& op : operations()) {
        for (const bool with_ledger : {false, true}) {
            for (const bool for_good : {false, true}) {
                for (long which = 1; which < 400; ++which, ++points) {
                    CAPTURE(std::string(op.name));
                    CAPTURE(with_ledger);
                    CAPTURE(for_good);
                    CAPTURE(which);
                    if (!run(op, with_ledger, which, for_good)) {
                        break;
                    }
                }
            }
        }
    }
    MESSAGE(points << " points in " << operations().size() << " operations");
}

namespace {

template <class Act>
bool fails(long which, Act act) {
    test::memory_full full(which, false);
    bool thrown = false;
    try {
        act();
    } catch (const std::bad_alloc&) {
        thrown = true;
    }
    full.end();
    return thrown;
}

} // namespace

TEST_CASE("memory: what consists of two changes is made whole or not at all") {
    const std::string member(40, 'm');
    for (long which = 1; which < 16; ++which) {
        CAPTURE(which);
        {
            courier::group<std::string> crew{"crew"};
            courier::membership<std::string> first;
            if (fails(which, [&] { first = crew.join(member); })) {
                CHECK(crew.empty());
            }
            first = crew.join(member);
            courier::membership<std::string> second;
            const bool joined = !fails(which, [&] { second = crew.join(member); });
            first.end();
            CHECK(crew.has(member) == joined);
        }
        {
            courier::reactions<std::string> masts{"masts", [](courier::subscriber&, const std::string&) {}};
            if (fails(which, [&] { masts.attach(member); })) {
                CHECK(masts.size() == 0);
                CHECK(masts.attach(member));
            }
        }
        {
            courier::tally<std::string> ready{"ready", {member}};
            if (fails(which, [&] { ready.report(member); })) {
                ready.report(member);
            }
            CHECK(ready.complete());
        }
    }
}

TEST_CASE("memory: a ledger is attached whole or not at all") {
    for (long which = 1; which < 16; ++which) {
        CAPTURE(which);
        courier::channel<Tide> tide{long_name};
        courier::ledger books{"books"};
        fails(which, [&] { books.attach(tide); });
        books.attach(tide);
        tide.publish({1});
        CHECK(books.read().channels.size() == 1);
    }
}
