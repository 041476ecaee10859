// Small programs as newcomers write them: what they need works at the first try.
#include "support.hpp"

using namespace std::chrono_literals;

namespace {

struct Sunk {
    int barge;
};
struct Struck {
    int depth;
    std::optional<int> by; ///< the wyrm, if it was one
};
struct Bitten {
    int barge;
    std::optional<int> wyrm;
};
struct Collected {
    int crate;
};
struct Pressed {
    char key;
};
struct Loaded {
    std::string what;
};
struct StoodTo {
    int hand;
    std::string post = "deck"; ///< came later; nothing else had to change
};

std::string written;
std::string taken() {
    return std::exchange(written, {});
}

} // namespace

TEST_CASE("one sinks, others react; disabled, enabled, a second one comes and goes") {
    courier::channel<Sunk> sunk{"barges.sunk"};
    struct bell {
        bell(const courier::channel<Sunk>& on, std::string name) : name_(std::move(name)) {
            in.subscribe(on, [this] { written += name_; });
        }
        std::string name_;
        courier::subscriber in{"bell"};
    };
    bell south(sunk, "s");
    sunk.publish({.barge = 3});
    south.in.pause();
    sunk.publish({.barge = 4});
    south.in.resume();
    auto north = std::make_unique<bell>(sunk, "n");
    sunk.publish({.barge = 5});
    north.reset();
    sunk.publish({.barge = 6});
    CHECK(taken() == "ssns");
}

TEST_CASE("the old and the new value on a label, and a value that is added to") {
    courier::state<int> crates{"harbour.crates", 10};
    courier::subscriber label{"label"};
    label.subscribe(crates, [](const courier::change<int>& c) {
        written += std::to_string(c.before()) + ">" + std::to_string(c.after()) + " ";
    });
    crates.add(3);
    crates.subtract(1);
    CHECK(taken() == "10>13 13>12 ");
}

TEST_CASE("a low-level happening announced again as a gameplay one, with an optional cause") {
    courier::channel<Struck> struck{"hull.struck"};
    courier::channel<Bitten> bitten{"barges.bitten"};
    const courier::relay to_game{struck, bitten, [](const Struck& s) { return Bitten{.barge = 3, .wyrm = s.by}; }};
    courier::witness seen{bitten};
    struck.publish({.depth = 1, .by = 7});
    struck.publish({.depth = 1, .by = std::nullopt});
    CHECK(seen.count() == 2);
    CHECK(seen.payloads()[0].wyrm == 7);
    CHECK_FALSE(seen.payloads()[1].wyrm);
}

TEST_CASE("all of two kinds are collected, while their managers come and go") {
    courier::channel<Collected> collected{"collected"};
    struct manager {
        manager(const courier::channel<Collected>& on, int first) {
            in.subscribe(on, [this](const Collected& c) { there.erase(c.crate); }); // before the tally's line
            for (int i = first; i < first + 3; ++i) {
                there.emplace(i, group.join(i));
            }
            all.expect_group(group);
            all.reports_from(on, [](const Collected& c) { return c.crate; },
                             {.condition = [first](const Collected& c) { return c.crate / 10 == first / 10; }});
        }
        courier::group<int> group;
        std::map<int, courier::membership<int>> there;
        courier::tally<int> all{"all"};
        courier::subscriber in{"manager"};
    };
    auto shells = std::make_unique<manager>(collected, 0);
    manager crates(collected, 10);
    courier::subscriber in{"keeper"};
    in.subscribe(shells->all.completed(),
                 [](const courier::tally_completed& c) { written += "s" + std::to_string(c.reported); });
    in.subscribe(crates.all.completed(),
                 [](const courier::tally_completed& c) { written += "c" + std::to_string(c.reported); });
    for (const int i : {0, 10, 1, 2}) {
        collected.publish({.crate = i});
    }
    CHECK(taken() == "s3");
    shells.reset();
    collected.publish({.crate = 11});
    collected.publish({.crate = 12});
    CHECK(taken() == "c3");
    CHECK(crates.there.empty());
}

TEST_CASE("the phases of a menu gate its input") {
    enum class menu { title, options, play };
    courier::phases<menu> shown{
        "menu", menu::title, {{menu::title, {menu::options, menu::play}}, {menu::options, {menu::title}}}};
    courier::channel<Pressed> keys{"keys.pressed"};
    courier::subscriber in{"menu"};
    // One key makes one move, so whoever moves stops the rest.
    in.subscribe(keys,
                 [&](const Pressed& p) {
                     shown.move_to(p.key == 'o' ? menu::options : menu::play);
                     return courier::verdict::stop;
                 },
                 {.during = shown.in(menu::title)});
    in.subscribe(keys,
                 [&] {
                     shown.move_to(menu::title);
                     return courier::verdict::stop;
                 },
                 {.during = shown.in(menu::options)});
    keys.publish({.key = 'o'});
    CHECK(shown.is(menu::options));
    keys.publish({.key = 'x'});
    CHECK(shown.is(menu::title));
    keys.publish({.key = 'p'});
    CHECK(shown.is(menu::play));
    keys.publish({.key = 'o'});
    CHECK(shown.is(menu::play));
    CHECK_FALSE(shown.may_move_to(menu::options));
}

TEST_CASE("three loads, one of which is through already, and a fallback when time is up") {
    courier::outbox later;
    courier::timetable hours{later};
    courier::channel<Loaded> map{"map.loaded"};
    courier::channel<Loaded> sounds{"sounds.loaded"};
    courier::channel<Loaded> texts{"texts.loaded"};
    for (courier::channel<Loaded>* one : {&map, &sounds, &texts}) {
        one->retain_latest();
    }
    map.publish({.what = "map"});
    courier::subscriber in{"loader"};
    in.start([](auto& time, auto& m, auto& s, auto& t) -> courier::sequence<> {
        const courier::next_options or_before{.retained = true};
        const auto [a, b] = co_await courier::when_all(courier::next(m, or_before), courier::next(s, or_before));
        written += a.what + " " + b.what + " ";
        const auto text = co_await courier::or_else(courier::within(time, 2s, courier::next(t, or_before)),
                                                    [&] { return courier::next(m, or_before); });
        written += text.what;
    }(hours, map, sounds, texts));
    sounds.publish({.what = "sounds"});
    CHECK(taken() == "map sounds ");
    hours.advance(2s);
    later.deliver();
    CHECK(taken() == "map");
}

TEST_CASE("each of several must report, one leaves, and the payload grows") {
    courier::channel<StoodTo> stood_to{"crew.stood_to"};
    courier::group<int> crew{"crew"};
    auto one = crew.join(1);
    auto two = crew.join(2);
    auto three = crew.join(3);
    courier::subscriber in{"mate"};
    in.start([](auto& who, auto& reports) -> courier::sequence<> {
        const auto all = co_await courier::all_in(
            who, [&](int hand) { return courier::next(reports, [hand](const StoodTo& s) { return s.hand == hand; }); });
        written += std::to_string(all.size()) + " stood to";
    }(crew, stood_to));
    courier::outbox later;
    courier::timetable hours{later};
    const courier::subscription_key patience = in.after(hours, 1s, [] { written += "tired "; });
    CHECK(in.end(patience));
    hours.advance(1s);
    later.deliver();
    stood_to.publish({.hand = 1});
    two.end();
    stood_to.publish({.hand = 3, .post = "mast"});
    CHECK(taken() == "2 stood to");
}
