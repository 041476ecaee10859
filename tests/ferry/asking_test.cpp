// Questions to other processes, and causes that come from there.
#include "support.hpp"

#include <courier/recording/explanation.hpp>
#include <courier/recording/read_run.hpp>
#include <courier/recording/recorder.hpp>

#include <unistd.h>

namespace {

using namespace test;
using courier::ferry_code;
using courier::remote_outcome;

struct Depth {
    int fathoms = 0;
};
struct DepthAsked {
    using answer = Depth;
    int hour = 0;
};

struct asked_office {
    explicit asked_office(const reef::local_broker& broker) : ferry(at(broker, "office")) {
        ferry.answer(depth, "office/depth");
        in.answer(depth, [](const DepthAsked& q) -> std::optional<Depth> {
            return q.hour > 9 ? std::nullopt : std::optional(Depth{2 * q.hour});
        });
    }
    courier::query<DepthAsked> depth{"depth"};
    courier::ferry ferry;
    courier::subscriber in{"office"};
};

courier::sequence<> asks_twice(courier::remote_query<DepthAsked>& depth, std::string& heard) {
    for (const int hour : {4, 11}) {
        const std::optional<Depth> answer = co_await courier::ask(depth, {hour});
        heard += answer ? std::to_string(answer->fathoms) + " " : "nobody knew ";
    }
}

} // namespace

TEST_CASE("a question is answered, or nobody knew") {
    const reef::local_broker broker;
    asked_office office(broker);
    courier::ferry reef(at(broker, "reef"));
    courier::remote_query<DepthAsked> depth(reef, "office/depth", 5s);
    std::map<std::uint64_t, courier::remote_answer<Depth>> got;
    const auto in =
        depth.answered().subscribe([&](const courier::remote_answer<Depth>& one) { got[one.ticket] = one; });
    REQUIRE(connected({&office.ferry, &reef}));
    courier::subscriber waits("waits");
    std::string heard;
    waits.start(asks_twice(depth, heard));
    const std::uint64_t first = depth.ask({3});
    const std::uint64_t second = depth.ask({11});
    CHECK(first != second);
    REQUIRE(until({&office.ferry, &reef}, [&] { return got.size() == 4; }));
    CHECK(heard == "8 nobody knew ");
    CHECK(got[first].how == remote_outcome::answered);
    CHECK(got[first].answer->fathoms == 6);
    CHECK(got[second].how == remote_outcome::nobody_knew);
    CHECK_FALSE(got[second].answer.has_value());
}

TEST_CASE("a request is answered when its reply is given, and nobody knew when that goes; either side may end first") {
    const reef::local_broker broker;
    courier::channel<courier::request<DepthAsked>> soundings{"soundings"};
    auto office = std::make_unique<courier::ferry>(at(broker, "office"));
    office->answer(soundings, "office/soundings");
    std::vector<courier::reply<Depth>> open;
    const auto keeps = soundings.subscribe([&](const courier::request<DepthAsked>& r) {
        if (r.question().hour < 9) { // of others nobody takes the reply
            open.push_back(r.take());
        }
    });
    courier::ferry reef(at(broker, "reef"));
    courier::remote_query<DepthAsked> depth(reef, "office/soundings", 5s);
    std::map<std::uint64_t, courier::remote_answer<Depth>> got;
    const auto in =
        depth.answered().subscribe([&](const courier::remote_answer<Depth>& one) { got[one.ticket] = one; });
    REQUIRE(connected({office.get(), &reef}));
    const std::uint64_t tickets[] = {depth.ask({1}), depth.ask({2}), depth.ask({10}), depth.ask({3})};
    REQUIRE(until({office.get(), &reef}, [&] { return open.size() == 3 && got.size() == 1; }));
    CHECK(got[tickets[2]].how == remote_outcome::nobody_knew);
    open[1] = {}; // the second question's
    CHECK(open[0].give({7}));
    REQUIRE(until({office.get(), &reef}, [&] { return got.size() == 3; }));
    CHECK(got[tickets[0]].answer->fathoms == 7);
    CHECK(got[tickets[1]].how == remote_outcome::nobody_knew);
    office.reset();
    open[2].give({8}); // to where nobody is
    CHECK(got.size() == 3);
}

TEST_CASE("a question comes to an end without an answer, and there are only so many at a time") {
    const reef::local_broker broker;
    courier::ferry_options options = at(broker, "reef");
    options.max_questions = 2;
    courier::ferry reef(options);
    courier::remote_query<DepthAsked> depth(reef, "office/depth", 60ms);
    int late = 0;
    const auto in = depth.answered().subscribe(
        [&](const courier::remote_answer<Depth>& one) { late += one.how == remote_outcome::too_late ? 1 : 0; });
    const loss_list lost(reef);
    REQUIRE(connected({&reef}));
    CHECK(depth.ask({1}) != 0);
    CHECK(depth.ask({2}) != 0);
    CHECK(depth.ask({3}) == 0);
    CHECK(until({&reef}, [&] { return late == 2 && lost.of(ferry_code::too_many_asked) == 1; }));
    CHECK(depth.ask({4}) != 0);
    CHECK(until({&reef}, [&] { return late == 3; }));
}

TEST_CASE("a question that nobody waits for any longer is not put") {
    reef::local_broker broker;
    asked_office office(broker);
    courier::ferry_options options = at(broker, "reef");
    const auto file = std::filesystem::temp_directory_path() / ("ferry-late-" + std::to_string(::getpid()));
    options.waiting_file = file;
    courier::ferry reef(options);
    courier::remote_query<DepthAsked> hasty(reef, "office/depth", 60ms);
    courier::remote_query<DepthAsked> patient(reef, "office/depth", 5s);
    std::vector<std::pair<remote_outcome, int>> got;
    courier::subscriber in("asks");
    const auto note = [&](const courier::remote_answer<Depth>& one) {
        got.emplace_back(one.how, one.answer ? one.answer->fathoms : 0);
    };
    in.subscribe(hasty.answered(), note);
    in.subscribe(patient.answered(), note);
    const loss_list lost(reef);
    REQUIRE(connected({&office.ferry, &reef}));
    broker.end();
    REQUIRE(until({&office.ferry, &reef}, [&] { return !is_there(office.ferry) && !is_there(reef); }));
    hasty.ask({1});
    patient.ask({2});
    REQUIRE(until({&office.ferry, &reef}, [&] { return got.size() == 1; }));
    CHECK(std::filesystem::file_size(file) == 0); // a life after this one could not ask for the answer
    broker.start();
    other_program looks(broker.port(), "looks");
    looks.subscribe("office/depth");
    REQUIRE(until({&office.ferry, &reef}, [&] { return got.size() == 2; }));
    patient.ask({3});
    REQUIRE(until({&office.ferry, &reef}, [&] { return got.size() == 3 && !looks.heard().empty(); }));
    look_after({&office.ferry, &reef}, 30ms);
    CHECK(got == std::vector<std::pair<remote_outcome, int>>{
                     {remote_outcome::too_late, 0}, {remote_outcome::answered, 4}, {remote_outcome::answered, 6}});
    CHECK(office.ferry.report().arrived == 2);
    CHECK(lost.of(ferry_code::bad_reply) == 0);
    const std::uint32_t expires_in = looks.heard().back().expires_in; // for an office that is away
    CHECK(expires_in > 0);
    CHECK(expires_in <= 5);
    std::filesystem::remove(file);
}

TEST_CASE("a remote query may end first, and so may its ferry") {
    const reef::local_broker broker;
    asked_office office(broker);
    auto reef = std::make_unique<courier::ferry>(at(broker, "reef"));
    auto depth = std::make_unique<courier::remote_query<DepthAsked>>(*reef, "office/depth", 5s);
    REQUIRE(connected({&office.ferry, reef.get()}));
    CHECK(depth->ask({3}) != 0);
    depth.reset();
    look_after({&office.ferry, reef.get()}, 100ms);
    depth = std::make_unique<courier::remote_query<DepthAsked>>(*reef, "office/depth", 5s);
    int got = 0;
    const auto in = depth->answered().subscribe([&] { ++got; });
    CHECK(depth->ask({4}) != 0);
    CHECK(until({&office.ferry, reef.get()}, [&] { return got == 1; }));
    reef.reset();
    CHECK(depth->ask({5}) == 0);
}

TEST_CASE("one process of a group answers") {
    const reef::local_broker broker;
    courier::query<DepthAsked> depths[2]{courier::query<DepthAsked>("a"), courier::query<DepthAsked>("b")};
    courier::ferry one(at(broker, "one"));
    courier::ferry two(at(broker, "two"));
    one.answer(depths[0], "office/depth", {.share_name = "offices"});
    two.answer(depths[1], "office/depth", {.share_name = "offices"});
    int asked = 0;
    courier::subscriber in("offices");
    for (auto& each : depths) {
        in.answer(each, [&](const DepthAsked& q) {
            ++asked;
            return Depth{q.hour};
        });
    }
    courier::ferry reef(at(broker, "reef"));
    courier::remote_query<DepthAsked> depth(reef, "office/depth", 5s);
    int got = 0;
    in.subscribe(depth.answered(), [&] { ++got; });
    REQUIRE(connected({&one, &two, &reef}));
    for (int i = 0; i < 10; ++i) {
        depth.ask({i});
    }
    CHECK(until({&one, &two, &reef}, [&] { return got == 10; }));
    CHECK(asked == 10);
}

TEST_CASE("answers go below the question's topic only, and only to those who asked") {
    const reef::local_broker broker;
    asked_office office(broker);
    courier::ferry reef(at(broker, "reef"));
    courier::remote_query<DepthAsked> depth(reef, "office/depth", 5s);
    int got = 0;
    const auto in = depth.answered().subscribe([&] { ++got; });
    const loss_list of_office(office.ferry);
    const loss_list of_reef(reef);
    REQUIRE(connected({&office.ferry, &reef}));
    other_program other(broker.port(), "other");
    other.subscribe("#");
    for (const char* const elsewhere :
         {"reef/oil", "office/depthless/answers/x", "office/depth/#", "", "office/depth"}) {
        auto question = event_of("office/depth", R"({"hour":3})");
        question.response_topic = elsewhere;
        question.correlation = "x";
        other.send(question);
    }
    REQUIRE(until({&office.ferry, &reef}, [&] { return of_office.of(ferry_code::bad_reply) >= 4; }));
    auto question = event_of("office/depth", R"({"hour":4})");
    question.response_topic = "office/depth/answers/other";
    question.correlation = "mine";
    other.send(question);
    auto answer = event_of("office/depth/answers/reef", R"({"fathoms":99})");
    for (const char* const ticket : {"", "1", "0000000000000000-1"}) {
        answer.correlation = ticket;
        other.send(answer);
    }
    answer.correlation = reef.run() + "-77";
    other.send(answer);
    CHECK(until({&office.ferry, &reef}, [&] { return of_reef.of(ferry_code::bad_reply) == 4; }));
    CHECK(got == 0);
    const auto is_answer = [](const other_program::message& one) {
        return one.topic == "office/depth/answers/other" && one.correlation == "mine" &&
               one.payload == R"({"fathoms":8})";
    };
    CHECK(until({&office.ferry, &reef}, [&] {
        const auto all = other.heard();
        return std::any_of(all.begin(), all.end(), is_answer);
    }));
    for (const auto& one : other.heard()) {
        CHECK(one.topic.starts_with("office/depth"));
    }
}

TEST_CASE("messages are CloudEvents with the trace that they belong to") {
    const reef::local_broker broker;
    courier::ledger books("near");
    courier::channel<Landed> here("here");
    courier::channel<Landed> next("next");
    books.attach_everything();
    courier::ferry near(at(broker, "near"));
    near.send(here, "t/here");
    near.send(next, "t/next");
    const auto chain = here.subscribe([&](const Landed& one) { next.publish(one); });
    other_program looks(broker.port(), "looks");
    looks.subscribe("t/#");
    REQUIRE(connected({&near}));
    here.publish({3, 4});
    here.publish({5, 6});
    REQUIRE(until({&near}, [&] { return looks.heard().size() == 4; }));
    std::map<std::string, std::vector<other_program::message>> by;
    for (const auto& one : looks.heard()) {
        by[one.topic].push_back(one);
    }
    const auto& first = by["t/here"][0];
    CHECK(first.payload == R"({"barge":3,"crates":4})");
    CHECK(first.content_type == "application/json");
    CHECK(first.properties.at("specversion") == "1.0");
    CHECK(first.properties.at("source") == "near");
    CHECK(first.properties.at("type") == "wired-courier.payload");
    CHECK(first.properties.at("id").starts_with(near.run() + "-n0-1-"));
    const auto trace_of = [](const other_program::message& one) {
        const std::string& parent = one.properties.at("traceparent");
        REQUIRE(parent.size() == 55);
        return parent.substr(3, 32);
    };
    CHECK(trace_of(first) == trace_of(by["t/next"][0])); // caused by it
    CHECK(trace_of(by["t/here"][1]) == trace_of(by["t/next"][1]));
    CHECK(trace_of(first) != trace_of(by["t/here"][1]));
    CHECK(first.properties.at("traceparent") != by["t/next"][0].properties.at("traceparent"));
}

TEST_CASE("a trace from elsewhere goes on, through whatever it causes") {
    const reef::local_broker broker;
    courier::ledger books("near");
    courier::channel<Landed> come("come");
    courier::channel<Landed> go("go");
    books.attach_everything();
    courier::ferry near(at(broker, "near"));
    near.receive(come, "t/come");
    near.send(go, "t/go");
    courier::outbox later("later");
    courier::poster<Landed> deferred(later, go);
    const auto chain = come.subscribe([&](const Landed& one) { deferred.post(one); });
    other_program other(broker.port(), "other");
    other.subscribe("t/go");
    REQUIRE(connected({&near}));
    auto event = event_of("t/come", R"({"barge":1})");
    event.properties["traceparent"] = "00-0af7651916cd43dd8448eb211c80319c-b7ad6b7169203331-01";
    other.send(event);
    REQUIRE(until({&near}, [&] {
        later.deliver();
        return other.heard().size() == 1;
    }));
    const std::string parent = other.heard()[0].properties.at("traceparent");
    CHECK(parent.substr(0, 36) == "00-0af7651916cd43dd8448eb211c80319c-");
    CHECK(parent.substr(36, 16) != "b7ad6b7169203331");
    event.properties["traceparent"] = "00-00000000000000000000000000000000-b7ad6b7169203331-01";
    other.send(event);
    event.properties["traceparent"] = "ff-0af7651916cd43dd8448eb211c80319c-b7ad6b7169203331-01";
    other.send(event);
    REQUIRE(until({&near}, [&] {
        later.deliver();
        return other.heard().size() == 3;
    }));
    CHECK(other.heard()[1].properties.at("traceparent").substr(0, 36) != parent.substr(0, 36));
    CHECK(other.heard()[2].properties.at("traceparent").substr(0, 36) != parent.substr(0, 36));
}

TEST_CASE("a chain of causes is followed through the recordings of several processes") {
    const auto folder = std::filesystem::temp_directory_path() / ("ferry-chain-" + std::to_string(::getpid()));
    std::filesystem::create_directories(folder);
    const reef::local_broker broker;
    {
        courier::ledger books("far");
        courier::recorder file(books, folder / "far.jsonl");
        books.attach_everything();
        courier::channel<Landed> comes("comes");
        courier::channel<Landed> welcome("welcome");
        const auto next = comes.subscribe([&](const Landed& one) { welcome.publish(one); });
        courier::ferry far(at(broker, "far"));
        far.receive(comes, "t/sails");
        REQUIRE(connected({&far}));
        std::thread near_process([&] { // each has its own ledger
            courier::ledger near_books("near");
            courier::recorder near_file(near_books, folder / "near.jsonl");
            near_books.attach_everything();
            courier::channel<Landed> moored("moored");
            courier::channel<Landed> sails("sails");
            courier::ferry near(at(broker, "near"));
            near.send(sails, "t/sails");
            const auto then = moored.subscribe([&](const Landed& one) { sails.publish(one); });
            if (connected({&near})) {
                moored.publish({3, 4});
                static_cast<void>(until({&near}, [&] { return near.report().confirmed == 1; }));
            }
            near_books.end_frame();
        });
        near_process.join();
        CHECK(until({&far}, [&] { return far.report().arrived == 1; }));
        look_after({&far}, 20ms);
        books.end_frame();
    }
    const std::vector<courier::run> runs{courier::read_run(folder / "near.jsonl"),
                                         courier::read_run(folder / "far.jsonl")};
    REQUIRE_FALSE(runs[0].processes.empty());
    const courier::recorded_event* last = nullptr;
    for (const auto& e : runs[1].events) {
        last = runs[1].channels[e.channel].name == "welcome" ? &e : last;
    }
    REQUIRE(last != nullptr);
    const auto chain = courier::chain_across(runs, {&runs[1], last});
    std::vector<std::string> names;
    for (const auto& one : chain) {
        names.push_back(one.of->source + " " + one.of->channels[one.event->channel].name);
    }
    CHECK(names == std::vector<std::string>{"near moored", "near sails", "far comes", "far welcome"});
    CHECK(courier::chain_across({runs.data() + 1, 1}, {&runs[1], last}).size() == 2);
    std::filesystem::remove_all(folder);
}
