#include "support.hpp"

#include <courier/hub_values.hpp>

namespace reef {

struct Rang {
    int times;
};
struct Hailed {
    using address = int;
};
struct DepthAsked {
    using answer = int;
};

inline constexpr courier::channel_name<Rang> fog_bell{"sound.fog_bell"};
inline constexpr courier::channel_name<Rang> ship_bell{"sound.ship_bell"};
inline constexpr courier::channel_name<test::Moored> wrong_bell{"sound.fog_bell"};

} // namespace reef

using courier::hub;
using test::Moored;

TEST_CASE("a hub has one channel of each payload type, made on first use") {
    hub match{"match"};
    CHECK(match.name() == "match");
    CHECK(match.find<Moored>() == nullptr);
    courier::channel<Moored>& moored = match.channel<Moored>();
    CHECK(&match.channel<Moored>() == &moored);
    CHECK(match.find<Moored>() == &moored);
    CHECK(moored.name() == "test::Moored");
    const courier::witness seen{match.channel<Moored>()};
    const courier::publisher<Moored> out{match.channel<Moored>(), "harbour"};
    out.publish({.boat = 3});
    match.channel<reef::Rang>().publish({1});
    CHECK(seen.count() == 1);
    hub other{"other"};
    CHECK(&other.channel<Moored>() != &moored);
}

TEST_CASE("a const hub gives the right to subscribe and to ask only") {
    hub match{"match"};
    const hub& listen = match;
    static_assert(std::is_same_v<decltype(listen.channel<Moored>()), const courier::channel<Moored>&>);
    static_assert(std::is_same_v<decltype(listen.query<reef::DepthAsked>()), const courier::query<reef::DepthAsked>&>);
    CHECK(&listen.channel<Moored>() == &match.channel<Moored>());
    CHECK(&listen.channel(reef::fog_bell) == &match.channel(reef::fog_bell));
}

TEST_CASE("where one type has several channels, names declared as constants tell them apart") {
    hub match{"match"};
    courier::channel<reef::Rang>& fog = match.channel(reef::fog_bell);
    CHECK(&match.channel(reef::fog_bell) == &fog);
    CHECK(&match.channel(reef::ship_bell) != &fog);
    CHECK(&match.channel<reef::Rang>() != &fog);
    CHECK(fog.name() == "sound.fog_bell");
    const test::fault_catcher faults;
    match.channel(reef::wrong_bell).publish({});
    CHECK(faults.told_once(
        {"[courier.name-clash]", "of 'test::Moored', but that is", "'reef::Rang' made at hub_test.cpp:"}));
}

TEST_CASE("a name may be that of the payload itself, and is still a channel of its own") {
    static constexpr courier::channel_name<reef::Rang> same{"reef::Rang"};
    hub match{"match"};
    CHECK(&match.channel(same) != &match.channel<reef::Rang>());
    CHECK(&match.channel(same) == &match.channel(same));
    CHECK(match.size() == 2);
}

TEST_CASE("an unknown name is reported with the nearest one") {
    hub app{"app"};
    static_cast<void>(app.channel(reef::fog_bell));
    hub match{"match", app};
    CHECK(match.find_named<reef::Rang>("sound.fog_bell") == &app.channel(reef::fog_bell));
    const test::fault_catcher faults;
    CHECK(match.find_named<reef::Rang>("sound.fogbell") == nullptr);
    CHECK(match.find_named<Moored>("sound.fog_bell") == nullptr);
    CHECK(match.find_named<Moored>("xyz") == nullptr);
    REQUIRE(faults.caught().size() == 3);
    CHECK(courier::id_of(faults.caught()[0].code) == "courier.unknown-channel");
    CHECK(test::contains(faults.caught()[0].text(), "did you mean 'sound.fog_bell'?"));
    CHECK(test::contains(faults.caught()[1].text(), "but one of 'reef::Rang'"));
    CHECK_FALSE(test::contains(faults.caught()[2].text(), "did you mean"));
}

TEST_CASE("a hub finds its parents' channels and makes only what they lack") {
    hub app{"app"};
    courier::channel<Moored>& moored = app.channel<Moored>();
    hub match{"match", app};
    hub half{"half", match};
    CHECK(&half.channel<Moored>() == &moored);
    CHECK(&half.channel<reef::Rang>() != app.find<reef::Rang>());
    CHECK(app.find<reef::Rang>() == nullptr);
    CHECK(&match.own_channel<Moored>() != &moored);
    CHECK(&match.own_channel<Moored>() == &match.channel<Moored>());
    CHECK(half.size() == 1);
}

TEST_CASE("a channel made below before its parent's is reported") {
    hub app{"app"};
    hub match{"match", app};
    hub half{"half", match};
    static_cast<void>(half.channel<Moored>());
    const test::fault_catcher faults;
    static_cast<void>(app.channel<Moored>());
    CHECK(faults.told_once({"[courier.channel-hidden]", "hub 'half' below it made its own at hub_test.cpp:"}));
    CHECK(&half.channel<Moored>() != &app.channel<Moored>());
}

TEST_CASE("a parent may end before its children, and a hub before everything it gave") {
    auto app = std::make_unique<hub>("app");
    auto match = std::make_unique<hub>("match", *app);
    hub half{"half", *match};
    courier::channel<reef::Rang>& rang = match->channel<reef::Rang>();
    const courier::publisher<Moored> out{app->channel<Moored>()};
    courier::subscriber in{"board"};
    in.subscribe(half.channel<Moored>(), [] {});
    CHECK(&half.channel<reef::Rang>() == &rang);
    app.reset();
    CHECK(out.publish({}).closed());
    CHECK(in.size() == 0);
    CHECK(&half.channel<reef::Rang>() == &rang); // its own parent's is still there
    CHECK(half.find<Moored>() == nullptr);
    CHECK(half.channel<Moored>().size() == 0);
    CHECK(half.size() == 1);
    match.reset();
    CHECK(half.find<reef::Rang>() == nullptr);
}

TEST_CASE("a hub may end in a handler of one of its channels") {
    auto match = std::make_unique<hub>("match");
    courier::subscriber in{"board"};
    in.subscribe(match->channel<Moored>(), [&] { match.reset(); });
    CHECK(match->channel<Moored>().publish({}).closed());
    CHECK(in.size() == 0);
}

TEST_CASE("a payload that names an address type travels on an addressed channel") {
    hub match{"match"};
    const courier::witness third{match.channel<reef::Hailed>().at(3)};
    match.channel<reef::Hailed>().publish_to(4, {});
    match.channel<reef::Hailed>().publish_to(3, {});
    CHECK(third.count() == 1);
}

TEST_CASE("a hub finds queries, too, and lists what it has") {
    hub match{"match"};
    courier::subscriber office{"office"};
    office.answer(match.query<reef::DepthAsked>(), [] { return 4; });
    const hub& listen = match;
    CHECK(listen.query<reef::DepthAsked>().ask({}) == 4);
    match.query<reef::DepthAsked>().set_default(1);
    office.subscribe(match.channel(reef::fog_bell), [] {});
    const int line = __LINE__ + 1;
    office.subscribe(match.channel<Moored>(), [] {});
    const auto lines = match.list();
    REQUIRE(lines.size() == 3);
    CHECK(lines[0].kind == courier::hub_kind::query);
    CHECK(lines[0].subscriptions == 1);
    CHECK(lines[1].name == "sound.fog_bell");
    CHECK(lines[1].type == "reef::Rang");
    CHECK(lines[2].made_at == "hub_test.cpp:" + std::to_string(line));
    CHECK(match.size() == 3);
}

TEST_CASE("a hub tells what a name carries, without a fault") {
    hub app{"app"};
    static_cast<void>(app.channel(reef::fog_bell));
    const test::fault_catcher faults;
    CHECK(app.payload_named("sound.fog_bell") == "reef::Rang");
    CHECK(app.payload_named("sound.fogbell").empty());
    CHECK(faults.caught().empty());
    CHECK(app.find_named<Moored>("sound.fogbell") == nullptr); // the near one carries something else
    CHECK_FALSE(test::contains(faults.caught().at(0).text(), "did you mean"));
}

TEST_CASE("a hub has values by name, made by the first to ask, which end with it, the latest first") {
    hub app{"app"};
    std::string log;
    auto match = std::make_unique<hub>("match", app);
    courier::state<int>& tide = app.state<int>("tide.level", 3);
    CHECK(&match->state<int>("tide.level", 9) == &tide); // the parent's, as it is
    auto& is_open = match->value<courier::formula<bool>>("bar.open", [&tide] { return tide.read() > 2; });
    auto& berths = match->value<courier::announced_list<std::string>>("berths");
    courier::subscriber in{"slate"};
    in.subscribe(is_open, [&](const courier::change<bool>& c) { log += c.after() ? "open " : "closed "; });
    in.subscribe(berths, [&] { log += "berths "; });
    tide.set(1);
    berths.add("mole");
    CHECK(log == "closed berths ");
    CHECK(match->find_value<courier::state<int>>("tide.level") == &tide);
    CHECK(app.find_value<courier::formula<bool>>("bar.open") == nullptr);
    CHECK(match->size() == 2);
    CHECK(match->list()[0].kind == courier::hub_kind::value);
    CHECK(match->list()[0].subscriptions == 1);
    {
        const test::fault_catcher faults;
        CHECK(match->state<double>("bar.open", 2.5).glance() == 2.5);
        CHECK(faults.told_once({"[courier.name-clash]",
                                "of 'state<double>', but that is the name of a 'formula<bool>' made at ",
                                "hub_test.cpp:"}));
    }
    const courier::formula<int> twice{"twice", [&tide] { return 2 * tide.read(); }};
    match.reset();
    CHECK(in.size() == 0);
    tide.set(4);
    CHECK(twice.read() == 8);
}
