// Other processes, ends of all kinds, and wrong use.
#include "support.hpp"

#include <csignal>

using namespace test;

TEST_CASE("other processes are heard of as they come, leave and die") {
    const reef::local_broker broker;
    const auto telling = [&](const std::string& name) {
        courier::ferry_options made = at(broker, name);
        made.processes_topic = "reef/processes";
        made.absence = 0s;
        return made;
    };
    courier::ferry near(telling("near"));
    std::vector<std::string> news;
    const auto in = near.peers().subscribe([&](const courier::peer_changed& p) {
        news.push_back(p.process + (p.news == courier::peer_news::came   ? " came"
                                    : p.news == courier::peer_news::left ? " left"
                                                                         : " died"));
    });
    REQUIRE(connected({&near}));
    {
        courier::ferry far(telling("far"));
        REQUIRE(until({&near, &far}, [&] { return news.size() == 1; }));
    }
    REQUIRE(until({&near}, [&] { return news.size() == 2; }));
    {
        middle between(broker.port());
        courier::ferry_options through = telling("far");
        through.port = between.port();
        through.min_retry = through.max_retry = 5s;
        courier::ferry far(through);
        REQUIRE(until({&near, &far}, [&] { return news.size() == 3; }));
        between.cut_after(true, 0);
        far.take_in();
        courier::channel<Landed> any("any");
        far.send(any, "t/any");
        any.publish({});
        REQUIRE(until({&near, &far}, [&] { return news.size() == 4; }));
    }
    CHECK(news == std::vector<std::string>{"far came", "far left", "far came", "far died"});

    courier::ferry late(telling("late")); // hears of those who are there
    std::string seen;
    const auto of_late = late.peers().subscribe([&](const courier::peer_changed& p) {
        if (p.news == courier::peer_news::came) {
            seen = p.process + " " + p.run;
        }
    });
    CHECK(until({&near, &late}, [&] { return seen == "near " + near.run(); }));
}

TEST_CASE("sources and targets may end first, and so may a ferry, in its own handler") {
    const reef::local_broker broker;
    auto here = std::make_unique<courier::channel<Landed>>("here");
    auto there = std::make_unique<courier::channel<Landed>>("there");
    auto oil = std::make_unique<courier::state<int>>("oil");
    courier::channel<Landed> last("last");
    courier::channel<Landed> end("end");
    courier::ferry near(at(broker, "near"));
    auto far = std::make_unique<courier::ferry>(at(broker, "far"));
    near.send(*here, "t/a");
    near.send(last, "t/last");
    far->receive(*there, "t/a");
    far->receive(*oil, "t/oil");
    far->receive(end, "t/last");
    int heard = 0;
    const auto in = end.subscribe([&] {
        ++heard;
        far.reset();
    });
    REQUIRE(connected({&near, far.get()}));
    here->publish({});
    there.reset();
    oil.reset();
    look_after({&near, far.get()}, 50ms);
    here.reset();
    last.publish({1, 1});
    last.publish({2, 2});
    REQUIRE(until({&near}, [&] {
        if (far != nullptr) {
            far->take_in();
        }
        return heard != 0;
    }));
    look_after({&near}, 30ms);
    CHECK(heard == 1);
    CHECK(far == nullptr);
}

TEST_CASE("a handler that throws keeps nothing else from arriving") {
    const reef::local_broker broker;
    courier::channel<Landed> here("here");
    courier::channel<Landed> there("there");
    courier::ferry near(at(broker, "near"));
    courier::ferry far(at(broker, "far"));
    near.send(here, "t/a");
    far.receive(there, "t/a");
    int heard = 0;
    const auto in = there.subscribe([&](const Landed& one) {
        ++heard;
        if (one.barge == 1) {
            throw std::runtime_error("a leak");
        }
    });
    REQUIRE(connected({&near, &far}));
    for (int i = 0; i < 3; ++i) {
        here.publish({i, 0});
    }
    int thrown = 0;
    CHECK(until({&near}, [&] {
        try {
            far.take_in();
        } catch (const std::runtime_error& error) {
            thrown += std::string_view(error.what()) == "a leak" ? 1 : 0;
        }
        return heard == 3;
    }));
    CHECK(thrown == 1);
}

TEST_CASE("what the program does with signals is its own") {
    using handler = void (*)(int);
    const handler before = std::signal(SIGPIPE, SIG_DFL);
    const reef::local_broker broker;
    courier::ferry one(at(broker, "one"));
    REQUIRE(connected({&one}));
    CHECK((std::signal(SIGPIPE, before) == SIG_DFL));
}

TEST_CASE("wrong use is told at once") {
    courier::channel<Landed> plain("landed");
    courier::addressed_channel<Landed, int> addressed("berths");
    struct Borrows {
        std::string_view text;
    };
    courier::channel<Borrows> borrows("borrows");
    const auto told = [](const std::function<void()>& what) -> std::string {
        try {
            what();
        } catch (const courier::ferry_error& error) {
            return error.what();
        }
        return "nothing";
    };
    courier::ferry one({.process = "one", .port = 1});
    struct row {
        std::function<void()> what;
        std::string told;
        std::string code;
    };
    const std::vector<row> rows{
        {[&] { one.send(plain, "t/+"); },
         "the topic 't/+', for 'landed', has a level '+', where an address would go, and the channel has none",
         "topic"},
        {[&] { one.send(addressed, "t"); }, "the topic 't', for 'berths', needs one level '+', where the address goes",
         "topic"},
        {[&] { one.send(plain, "t/#"); },
         "the topic 't/#', for 'landed', is not a topic to publish to: 1 to 65535 bytes, without '+' and '#'", "topic"},
        {[&] { one.send(plain, "$SYS/x"); },
         "the topic '$SYS/x', for 'landed', begins with '$', which is the broker's own", "topic"},
        {[&] { one.receive(plain, "t/a#"); },
         "the topic 't/a#', for 'landed', is not a filter of topics: '+' stands for one whole level, and '#' for all "
         "the last ones",
         "topic"},
        {[&] { one.receive(addressed, "+/+"); },
         "the topic '+/+', for 'berths', needs one level '+', from which the address comes", "topic"},
        {[&] { one.receive(plain, "t", {.share_name = "a/b"}); },
         "'a/b' is not a share name; use 1 to 64 letters, digits, '.', '_' and '-'", "name"},
        {[&] { one.receive(borrows, "t"); },
         "payloads for 'borrows' cannot be filled from outside: 'text' is a view of memory that it does not own, or "
         "cannot be assigned; use std::string and plain members",
         "payload"},
        {[&] { courier::ferry two({.process = "a b"}); },
         "'a b' is not a name for a process; set ferry_options::process to 1 to 64 letters, digits, '.', '_' and '-', "
         "different in each process",
         "name"},
        {[&] { courier::ferry two({.process = "two", .port = 70000}); }, "ferry_options::port must be from 0 to 65535",
         "option"},
        {[&] { courier::ferry two({.process = "two", .certificate = "x.crt"}); },
         "ferry_options::certificate and key must be given together", "option"},
    };
    for (const row& one_of : rows) {
        CHECK(told(one_of.what) == one_of.told + " [courier.ferry.bad-" + one_of.code + "]");
    }
    CHECK_THROWS_AS(courier::ferry({.process = "two", .waiting_file = "/no/such/folder/file"}), courier::ferry_error);
    CHECK_THROWS_AS(courier::ferry({.process = "two", .host = "broker.gannet.example", .authorities = "/no/such/file"}),
                    courier::ferry_error);
}
