// What crosses, and how it arrives.
#include "support.hpp"

#include <cmath>

namespace {

using namespace test;
using courier::encoding;
using courier::ferry_code;
using courier::guarantee;

enum class tone { brief, prolonged };

struct Everything {
    bool lit = false;
    std::uint8_t small = 0;
    std::int64_t far = 0;
    std::uint64_t wide = 0;
    double deep = 0;
    tone how = tone::brief;
    std::string what;
    std::optional<int> maybe;
    std::vector<Landed> all;
    Landed inside;
    std::chrono::milliseconds wait{0};
    bool operator==(const Everything&) const = default;
};

Everything some_of_everything() {
    return {true,
            250,
            std::numeric_limits<std::int64_t>::min(),
            std::numeric_limits<std::uint64_t>::max(),
            0.1,
            tone::prolonged,
            "\"Reef\"\n\t\xC3\xA9",
            7,
            {{1, 2}, {3, 4}},
            {5, 6},
            std::chrono::milliseconds(1500)};
}

} // namespace

TEST_CASE("every kind of field crosses, in both encodings") {
    const reef::local_broker broker;
    for (const encoding as : {encoding::json, encoding::cbor}) {
        courier::channel<Everything> here("here");
        courier::channel<Everything> there("there");
        courier::ferry near(at(broker, "near"));
        courier::ferry far(at(broker, "far"));
        near.send(here, "t/everything", {.encoding = as});
        far.receive(there, "t/everything");
        std::vector<Everything> got;
        const auto in = there.subscribe([&](const Everything& one) { got.push_back(one); });
        const loss_list lost(far);
        REQUIRE(connected({&near, &far}));
        here.publish(some_of_everything());
        here.publish({});
        CHECK_MESSAGE(until(
                          {&near, &far}, [&] { return got.size() == 2; }, 3s),
                      lost.latest.what);
        REQUIRE(got.size() == 2);
        CHECK(got[0] == some_of_everything());
        CHECK(got[1] == Everything());
    }
}

TEST_CASE("a payload without fields crosses, and one that is no number does") {
    struct Nothing {};
    struct Depth {
        double fathoms = 0;
    };
    const reef::local_broker broker;
    courier::channel<Nothing> here("here");
    courier::channel<Nothing> there("there");
    courier::channel<Depth> depth_here("depth here");
    courier::channel<Depth> depth_there("depth there");
    courier::ferry near(at(broker, "near"));
    courier::ferry far(at(broker, "far"));
    near.send(here, "t/nothing");
    near.send(depth_here, "t/depth/json");
    near.send(depth_here, "t/depth/cbor", {.encoding = encoding::cbor});
    far.receive(there, "t/nothing");
    far.receive(depth_there, "t/depth/+");
    int got = 0;
    int no_numbers = 0;
    const auto in = there.subscribe([&] { ++got; });
    const auto depth = depth_there.subscribe([&](const Depth& one) { no_numbers += std::isnan(one.fathoms) ? 1 : 0; });
    REQUIRE(connected({&near, &far}));
    here.publish();
    depth_here.publish({std::numeric_limits<double>::quiet_NaN()});
    CHECK(until({&near, &far}, [&] { return got == 1 && no_numbers == 2; }));
}

TEST_CASE("addresses are levels of the topic, whatever is in them") {
    const reef::local_broker broker;
    courier::addressed_channel<Landed, std::string> here("here");
    courier::addressed_channel<Landed, std::string> there("there");
    courier::ferry near(at(broker, "near"));
    courier::ferry far(at(broker, "far"));
    near.send(here, "reef/+/landed");
    far.receive(there, "reef/+/landed");
    std::vector<std::string> got;
    const auto in = there.subscribe([&](const std::string* to, const Landed& one) {
        got.push_back((to ? *to : "all") + ":" + std::to_string(one.barge));
    });
    other_program looks(broker.port(), "looks");
    looks.subscribe("reef/#");
    REQUIRE(connected({&near, &far}));
    const std::vector<std::string> addresses{"south", "a/b", "+", "#", "%41", "*", "two words", "\xC3\xA9", "$SYS"};
    for (std::size_t i = 0; i < addresses.size(); ++i) {
        here.publish_to(addresses[i], {static_cast<int>(i), 0});
    }
    here.publish({99, 0});
    REQUIRE(until({&near, &far},
                  [&] { return got.size() == addresses.size() + 1 && looks.heard().size() == addresses.size() + 1; }));
    for (std::size_t i = 0; i < addresses.size(); ++i) {
        CHECK(got[i] == addresses[i] + ":" + std::to_string(i));
    }
    CHECK(got.back() == "all:99");
    const auto topics = looks.heard();
    CHECK(topics[0].topic == "reef/south/landed");
    CHECK(topics[1].topic == "reef/a%2Fb/landed");
    CHECK(topics[2].topic == "reef/%2B/landed");
    CHECK(topics[4].topic == "reef/%2541/landed");
    CHECK(topics.back().topic == "reef/*/landed");
}

TEST_CASE("numbers and enumerations are addresses, too") {
    const reef::local_broker broker;
    courier::addressed_channel<Landed, int> here("here");
    courier::addressed_channel<Landed, std::uint8_t> there("there");
    courier::ferry near(at(broker, "near"));
    courier::ferry far(at(broker, "far"));
    near.send(here, "berth/+");
    far.receive(there, "berth/+");
    std::vector<int> got;
    const auto in = there.subscribe([&](const std::uint8_t& to, const Landed&) { got.push_back(to); });
    const loss_list lost(far);
    REQUIRE(connected({&near, &far}));
    here.publish_to(200, {});
    here.publish_to(300, {}); // no number of eight bits
    here.publish_to(-1, {});
    here.publish_to(7, {});
    CHECK(until({&near, &far}, [&] { return got.size() == 2 && lost.of(ferry_code::bad_address) == 2; }));
    CHECK(got == std::vector<int>{200, 7});
}

TEST_CASE("who comes late has the latest value of a state, and of what the broker keeps") {
    const reef::local_broker broker;
    courier::state<int> oil("oil", 7);
    courier::channel<Landed> landed("landed");
    courier::ferry near(at(broker, "near"));
    near.send(oil, "reef/oil");
    near.send(landed, "reef/landed", {.kept_by_broker = true});
    REQUIRE(connected({&near}));
    oil.set(8);
    landed.publish({1, 10});
    landed.publish({2, 20});
    REQUIRE(until({&near}, [&] { return near.report().confirmed >= 2; }));
    look_after({&near}, 100ms);

    courier::state<int> seen("seen", 0);
    courier::channel<Landed> heard("heard");
    courier::ferry far(at(broker, "far"));
    far.receive(seen, "reef/oil");
    far.receive(heard, "reef/landed");
    std::vector<int> barges;
    std::vector<int> values;
    const auto in = heard.subscribe([&](const Landed& one) { barges.push_back(one.barge); });
    const auto values_in = seen.subscribe([&](const courier::change<int>& c) { values.push_back(c.after()); });
    CHECK(until({&near, &far}, [&] { return seen.glance() == 8 && barges.size() == 1; }));
    CHECK(barges == std::vector<int>{2});
    oil.set(9);
    CHECK(until({&near, &far}, [&] { return seen.glance() == 9; }));
    CHECK(values == std::vector<int>{8, 9});
}

TEST_CASE("what came in is not sent back to where it came from") {
    const reef::local_broker broker;
    courier::channel<Landed> here("here");
    courier::channel<Landed> there("there");
    courier::state<int> oil_here("oil here", 1);
    courier::state<int> oil_there("oil there", 1);
    courier::ferry near(at(broker, "near"));
    courier::ferry far(at(broker, "far"));
    for (auto* const one : {&near, &far}) {
        auto& channel = one == &near ? here : there;
        auto& oil = one == &near ? oil_here : oil_there;
        one->send(channel, "t/both");
        one->receive(channel, "t/both");
        one->send(oil, "t/oil");
        one->receive(oil, "t/oil");
    }
    int heard_here = 0;
    int heard_there = 0;
    const auto in_here = here.subscribe([&] { ++heard_here; });
    const auto in_there = there.subscribe([&] { ++heard_there; });
    REQUIRE(connected({&near, &far}));
    here.publish({1, 1});
    oil_here.set(5);
    there.publish({2, 2});
    CHECK(until({&near, &far}, [&] { return heard_here == 2 && heard_there == 2 && oil_there.glance() == 5; }));
    look_after({&near, &far}, 200ms);
    CHECK(heard_here == 2);
    CHECK(heard_there == 2);
    CHECK(near.report().sent < 6);
    oil_there.set(6);
    CHECK(until({&near, &far}, [&] { return oil_here.glance() == 6; }));
}

TEST_CASE("a field more or less on either side breaks nothing") {
    struct Older {
        int barge = 0;
    };
    struct Newer {
        int crates = 40;
        int barge = 0;
        std::string pilot = "none";
    };
    const reef::local_broker broker;
    for (const encoding as : {encoding::json, encoding::cbor}) {
        courier::channel<Older> older("older");
        courier::channel<Newer> newer("newer");
        courier::channel<Older> older_in("older in");
        courier::channel<Newer> newer_in("newer in");
        courier::ferry near(at(broker, "near"));
        courier::ferry far(at(broker, "far"));
        near.send(older, "t/older", {.encoding = as});
        near.send(newer, "t/newer", {.encoding = as});
        far.receive(newer_in, "t/older");
        far.receive(older_in, "t/newer");
        Newer got_newer{0, 0, ""};
        int got_older = 0;
        const auto in = newer_in.subscribe([&](const Newer& one) { got_newer = one; });
        const auto in_too = older_in.subscribe([&](const Older& one) { got_older = one.barge; });
        REQUIRE(connected({&near, &far}));
        older.publish({3});
        newer.publish({1, 4, "Tern"});
        CHECK(until({&near, &far}, [&] { return got_newer.barge == 3 && got_older == 4; }));
        CHECK(got_newer.crates == 40);
        CHECK(got_newer.pilot == "none");
    }
}

TEST_CASE("what does not fit is refused, counted, and told with both versions") {
    struct Theirs {
        std::string barge = "Heron";
        int crates = 1;
    };
    const reef::local_broker broker;
    courier::channel<Theirs> here("here");
    courier::channel<Landed> there("there");
    courier::ferry near(at(broker, "near"));
    courier::ferry far(at(broker, "far"));
    near.send(here, "t/landed");
    far.receive(there, "t/landed");
    const loss_list lost(far);
    REQUIRE(connected({&near, &far}));
    here.publish({});
    here.publish({});
    REQUIRE(until({&near, &far}, [&] { return lost.of(ferry_code::does_not_fit) == 2; }));
    CHECK(id_of(lost.latest.code) == "courier.ferry.does-not-fit");
    CHECK(lost.latest.topic == "t/landed");
    CHECK(lost.latest.what ==
          "'/barge' must be a whole number, but is a text; theirs, from near: barge: a text, crates: a number; "
          "ours: barge: a whole number, crates: a whole number");
    CHECK(far.report().of(ferry_code::does_not_fit) == 2);
    CHECK(far.report().arrived == 0);
}

TEST_CASE("processes of a group share what comes") {
    const reef::local_broker broker;
    courier::channel<Landed> here("here");
    courier::channel<Landed> there[2]{courier::channel<Landed>("a"), courier::channel<Landed>("b")};
    courier::ferry near(at(broker, "near"));
    courier::ferry one(at(broker, "one"));
    courier::ferry two(at(broker, "two"));
    near.send(here, "t/work");
    one.receive(there[0], "t/work", {.share_name = "workers"});
    two.receive(there[1], "t/work", {.share_name = "workers"});
    std::vector<int> done;
    int of_one = 0;
    const auto in_one = there[0].subscribe([&](const Landed& l) { done.push_back(l.barge), ++of_one; });
    const auto in_two = there[1].subscribe([&](const Landed& l) { done.push_back(l.barge); });
    REQUIRE(connected({&near, &one, &two}));
    constexpr int all = 40;
    for (int i = 0; i < all; ++i) {
        here.publish({i, 0});
    }
    CHECK(until({&near, &one, &two}, [&] { return done.size() == all; }));
    look_after({&near, &one, &two}, 100ms);
    std::sort(done.begin(), done.end());
    CHECK(done.size() == all);
    CHECK(std::unique(done.begin(), done.end()) == done.end());
    CHECK(of_one > 0);
    CHECK(of_one < all);
    CHECK(one.report().of(ferry_code::missing) == 0);
}
