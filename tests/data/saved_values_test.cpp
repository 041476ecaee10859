#include "../support.hpp"

#include <courier/data/saved_values.hpp>
#include <courier/hub_values.hpp>

namespace {

enum class flag { none, whale, gull };
enum class watch { calm, storm, dawn };

struct berth {
    int barge = 0;
    std::optional<flag> shown;
    double depth = 2.5;
    friend bool operator==(const berth&, const berth&) = default;
};

struct game {
    courier::state<int> tide{"tide.level", 4};
    courier::state<std::string> song{"song", "the \"gull\"\n"};
    courier::state<berth> mole{"mole"};
    courier::announced_list<berth> orders{"orders"};
    courier::announced_map<std::string, berth> berths{"harbour.berths"};
    courier::phases<watch> hours{
        "watch", watch::calm, {{watch::calm, {watch::storm}}, {watch::storm, {watch::dawn}}, {watch::dawn, {}}}};
    courier::saved_values save{"reef"};

    game() {
        CHECK(save.add(tide));
        CHECK(save.add(song));
        CHECK(save.add(mole, {.name = "the mole"}));
        CHECK(save.add(orders));
        CHECK(save.add(berths, {.formerly = "places/old"}));
        CHECK(save.add(hours));
    }
    [[nodiscard]] auto all() const {
        return std::tuple(tide.glance(), song.glance(), mole.glance(), orders.glance(), berths.glance(), hours.now());
    }
    void play(std::mt19937& chance) {
        const auto roll = [&](unsigned below) { return static_cast<int>(chance() % below); };
        const auto some = [&] {
            return berth{roll(9) - 4, roll(2) == 0 ? std::optional(flag::gull) : std::nullopt, roll(100) / 7.0};
        };
        tide.set(roll(3) == 0 ? std::numeric_limits<int>::min() : roll(9));
        song.set(std::string(static_cast<std::size_t>(roll(4)), static_cast<char>(roll(128))));
        mole.set(some());
        roll(3) == 0 ? orders.clear() : static_cast<void>(orders.add(some()));
        berths.set(std::to_string(roll(4)) + "/~", some());
        berths.remove(std::to_string(roll(4)) + "/~");
        courier::detail::saving_access::move_past(hours, static_cast<watch>(roll(3)), {});
    }
};

std::vector<std::string> texts(const std::vector<courier::json_fault>& faults) {
    std::vector<std::string> all;
    for (const courier::json_fault& one : faults) {
        all.push_back(one.text());
    }
    return all;
}

} // namespace

TEST_CASE("a save is JSON that people can read, one value in a line") {
    game g;
    g.orders.add({7, flag::whale, 1});
    g.berths.set("north", {3, {}, 2});
    CHECK(g.save.to_json() == R"({"saved_values":1,"of":"reef","values":{
"tide.level":4,
"song":"the \"gull\"\n",
"the mole":{"barge":0,"shown":null,"depth":2.5},
"orders":[{"barge":7,"shown":"whale","depth":1}],
"harbour.berths":[{"key":"north","value":{"barge":3,"shown":null,"depth":2}}],
"watch":"calm"
}}
)");
    CHECK(g.save.names().size() == 6);
}

TEST_CASE("what was saved at random is there again, as one change, and nobody hears what did not change") {
    std::mt19937 chance(7);
    for (int run = 0; run < 200; ++run) {
        game before;
        game after;
        before.play(chance);
        after.play(chance);
        int heard = 0;
        bool is_whole = true;
        bool played = false;
        courier::subscriber in{"in"};
        const auto hear = [&] {
            ++heard;
            is_whole = is_whole && after.all() == before.all();
        };
        in.subscribe(after.tide, hear);
        in.subscribe(after.mole, hear);
        in.subscribe(after.hours.moved(), hear);
        in.subscribe(after.tide, [&] { played = true; }, {.during = after.save.playing()});
        const int changes = (after.tide.glance() != before.tide.glance()) +
                            (after.mole.glance() != before.mole.glance()) + (after.hours.now() != before.hours.now());
        const std::string text = before.save.to_json();
        REQUIRE(texts(after.save.restore(text)).empty());
        REQUIRE(after.all() == before.all());
        REQUIRE(is_whole);
        REQUIRE(heard == changes);
        REQUIRE_FALSE(played);
        REQUIRE(after.save.to_json() == text);
        REQUIRE(after.save.playing().running());
    }
}

TEST_CASE("saves of other versions: what is missing or unknown, renamed, retyped; nothing is half restored") {
    const courier::json_rules strict;
    struct row {
        std::string values;
        std::vector<std::string> faults;        // with the default rules
        std::vector<std::string> strict_faults; // and these instead
    };
    const std::string missing = " is missing [courier.data.missing-field]";
    const row rows[] = {
        {R"("tide.level":"high")",
         {"/values/tide.level: must be a whole number, but is a text [courier.data.wrong-type]"},
         {}},
        {R"("the mole":{"barge":1e99},"watch":"noon","harbour.berths":[{"key":3,"value":{}}])", {"3 faults"}, {}},
        {R"("tide.levle":3)",
         {},
         {"/values/tide.levle: names no value of this save; did you mean 'tide.level'? [courier.data.unknown-field]"}},
        {R"("watch":40)", {"1 fault"}, {}},
    };
    for (const row& one : rows) {
        CAPTURE(one.values);
        game g;
        const auto before = g.all();
        const std::string text = R"({"saved_values":1,"values":{)" + one.values + "}}";
        const std::vector<std::string> faults = texts(g.save.restore(text));
        if (!one.faults.empty() && test::contains(one.faults[0], " fault")) {
            CHECK(std::to_string(faults.size()) == one.faults[0].substr(0, 1));
        } else {
            CHECK(faults == one.faults);
        }
        CHECK(g.all() == before);
        if (!one.strict_faults.empty()) {
            const std::vector<std::string> all = texts(g.save.restore(text, strict));
            REQUIRE(all.size() == one.strict_faults.size() + 6); // and the six that are missing
            CHECK(all[0] == one.strict_faults[0]);
            CHECK(all[1] == "/values/tide.level: is missing [courier.data.missing-field]");
        }
    }
    for (const char* const text : {"", "[]", "{}", R"({"saved_values":1,"values":[]})", R"({"values":{}})",
                                   R"({"saved_values":2,"values":{}})", R"({"saved_values":"1","values":{}})"}) {
        game g;
        CHECK(g.save.restore(text).size() == 1);
    }
    game g;
    g.berths.set("south", {9, {}, 1});
    const std::string older =
        R"({"saved_values":1,"of":"reef","values":{"places/old":[{"key":"north","value":{"barge":3}}],)"
        R"("the mole":{"crane":true,"barge":2}}})";
    CHECK(texts(g.save.restore(older)).empty());
    CHECK(g.berths.glance() == std::map<std::string, berth>{{"north", {3, {}, 2.5}}});
    CHECK(g.mole.glance() == berth{2, {}, 2.5});
    CHECK(g.tide.glance() == 4);
    CHECK(
        texts(g.save.restore(R"({"saved_values":1,"values":{"places/old":3}})")) ==
        std::vector<std::string>{"/values/places~1old: must be a list, but is the number 3 [courier.data.wrong-type]"});
}

TEST_CASE("values end and come again, by a level, in the middle of it all; names are taken once") {
    const test::fault_catcher faults;
    courier::hub hub{"game"};
    auto save = std::make_unique<courier::saved_values>("reef");
    courier::state<int>* depth = nullptr;
    courier::level reef{"reef", hub, [&](courier::level& here) {
                            depth = &here.make<courier::state<int>>("depth", 3);
                            CHECK(save->add(*depth));
                        }};
    std::string text;
    for (int round = 0; round < 100; ++round) {
        reef.restart();
        CHECK(depth->glance() == 3);
        if (!text.empty()) {
            CHECK(save->restore(text).empty());
            CHECK(depth->glance() == round - 1);
        }
        depth->set(round);
        text = save->to_json();
    }
    courier::state<int> other{"other", 1};
    courier::state<int> twin{"other", 1};
    courier::saved_values second{"second"};
    CHECK(save->add(other));
    CHECK_FALSE(save->add(twin));
    CHECK_FALSE(save->add(twin, {.name = "twin", .formerly = "other"}));
    CHECK_FALSE(second.add(other)); // it is saved already
    REQUIRE(faults.caught().size() == 3);
    CHECK(faults.caught()[0].what == "value 'other' is there already and is not added to the values of 'reef'");
    CHECK(faults.caught()[2].what ==
          "value 'other' is saved by another one already and is not added to the values of 'second'");

    courier::subscriber in{"in"};
    in.subscribe(*depth, [&] {
        CHECK(save->restore(text)[0].code == courier::json_code::not_writable);
        reef.end();
        save.reset();
        throw std::runtime_error("squall");
    });
    CHECK_THROWS_AS(static_cast<void>(save->restore(R"({"saved_values":1,"values":{"depth":77,"other":2}})")),
                    std::runtime_error);
    CHECK(other.glance() == 2);
    CHECK(second.add(other));
}

TEST_CASE("values of a hub are saved as they come, in JSON and CBOR alike, and what is not saved is listed") {
    courier::hub reef{"reef"};
    reef.state<int>("tide.level", 4);
    courier::saved_values save{"reef"};
    save.add(reef);
    save.add(reef); // once
    reef.value<courier::announced_list<berth>>("orders").add({.barge = 7, .shown = flag::gull});
    reef.state<double>("depth", std::numeric_limits<double>::infinity());
    reef.value<courier::formula<int>>("twice", [] { return 8; }); // is computed
    CHECK(save.names() == std::vector<std::string>{"tide.level", "orders", "depth"});
    const std::string json = save.to_json();
    const std::string cbor = save.to_cbor();
    CHECK(cbor.size() < json.size());
    for (const std::string& text : {json, cbor}) {
        reef.state<int>("tide.level").set(1);
        reef.state<double>("depth").set(0);
        reef.value<courier::announced_list<berth>>("orders").clear();
        CHECK(texts(save.restore(text)).empty());
        CHECK(save.to_json() == json);
    }
    CHECK(texts(save.restore(cbor.substr(0, cbor.size() - 4)))[0].find("neither JSON") != std::string::npos);

    courier::outbox later{"later"};
    courier::timetable hours{later, "hours"};
    courier::channel<berth> moored{"moored"};
    courier::subscriber in{"keeper"};
    struct story {
        static courier::sequence<> of(courier::channel<berth>& c) { co_await courier::next(c); }
    };
    in.start(story::of(moored));
    hours.after(std::chrono::seconds(1), moored, {}).release();
    const std::vector<std::string> left = courier::saved_values::not_saved();
    REQUIRE(left.size() == 2);
    CHECK(left[0].find("a sequence of 'keeper' from saved_values_test.cpp:") == 0);
    CHECK(left[1] == "timetable 'hours': 1 payload or call waits");
}
