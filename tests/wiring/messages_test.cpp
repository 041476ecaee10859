// What is said of every mistake, word for word, and of actions that fail.
#include "support.hpp"

using namespace wired;

namespace {

std::string text_of(const std::string& name) {
    std::ifstream in(std::filesystem::path(WIRED_COURIER_TEST_FILES) / name, std::ios::binary);
    return {std::istreambuf_iterator<char>(in), {}};
}

} // namespace

TEST_CASE("a file with every mistake: all are told in one go, each with its place and what would fit") {
    harbour h;
    const courier::named_target lamp = h.wires.target("big lamp", wired::lamp::big);
    const std::string told = h.load(text_of("mistakes.toml")) + "\n";
    const std::string expected = text_of("mistakes.txt");
    std::istringstream is(told);
    std::istringstream should(expected);
    int number = 0;
    for (std::string a, b; std::getline(should, b);) {
        ++number;
        CAPTURE(number);
        REQUIRE(std::getline(is, a));
        CHECK(a == b);
    }
    CHECK(told == expected);
}

TEST_CASE("each code has an id of its own") {
    std::set<std::string_view> ids;
    for (int i = 0; i <= static_cast<int>(courier::wiring_code::unused_pattern); ++i) {
        const std::string_view id = courier::id_of(static_cast<courier::wiring_code>(i));
        CHECK(id.starts_with("courier.wiring."));
        CHECK(id != "courier.wiring.unknown");
        CHECK(ids.insert(id).second);
    }
}

TEST_CASE("wires that lead back to themselves by way of others are told with the way") {
    harbour h;
    h.wires.offer_publishing(h.in, h.raised);
    h.wires.announce("horn.sound", "wyrms.sighted");
    const std::string told = h.load(R"(
[[wire]]
when = "wyrms.sighted"
do = { action = "set tide.level", parameters = { value = 3 } }
[[wire]]
when = "tide.level"
do = "horn.sound"
)");
    CHECK(test::contains(told, "this leads back to itself: 'wyrms.sighted' -> 'tide.level' -> 'wyrms.sighted'"));
    CHECK(h.load(R"(
[[wire]]
when = "wyrms.sighted"
after = 1
do = { action = "set tide.level", parameters = { value = 3 } }
[[wire]]
when = "tide.level"
do = "horn.sound"
)") == "");
}

TEST_CASE("a delay in a program without a timetable is refused") {
    courier::channel<Judged> raised("raised");
    courier::subscriber in("in");
    courier::wiring wires("timeless");
    wires.offer(raised);
    wires.action(in, "act", [] {});
    CHECK_THROWS_WITH(wires.load_text("t.toml", "[[wire]]\nwhen = 'raised'\nafter = 1\ndo = 'act'\n"),
                      doctest::Contains("this program has no timetable for 'after' and 'every'"));
}

TEST_CASE("an action that is offered again with other parameters is refused") {
    courier::subscriber in("in");
    courier::wiring wires("clash");
    wires.action(in, "act", [] {});
    CHECK_THROWS_WITH(wires.action<Ring>(in, "act", [](const Ring&) {}),
                      doctest::Contains("action 'act' is offered with other parameters"));
}

TEST_CASE("a delayed text with an answer and a field is refused, and each alone is taken") {
    harbour h;
    const auto text = [](const std::string& says) {
        return "[[wire]]\nwhen = 'hoist.raised'\nafter = 1\ndo = { action = 'hoist.judge', parameters = { shown = "
               "'{shown}' "
               "}, "
               "done = { action = 'board.write', parameters = { text = '" +
               says + "' } } }\n";
    };
    CHECK(test::contains(h.load(text("{answer} for {shown}")),
                         "with 'after', a text has either {answer} and {why}, or fields and states"));
    CHECK(test::contains(h.load(text("{answer} at {tide.level}")), "[courier.wiring.wrong-type]"));
    CHECK(h.load(text("{answer} points")) == "");
    h.raised.publish({flag::whale});
    h.pass(std::chrono::seconds(1));
    CHECK(h.said() == "7 points");
    CHECK(h.load(text("the {shown}")) == "");
    h.raised.publish({flag::whale});
    h.pass(std::chrono::seconds(1));
    CHECK(h.said() == "the whale");
}

TEST_CASE("why an action failed is told to what follows, and published") {
    struct no_words {};
    harbour h;
    courier::subscriber log("log");
    std::string failures;
    log.subscribe(h.wires.failed(), [&](const courier::action_failed& one) {
        failures += one.wire + ", " + one.action + ": " + one.why + "\n";
        throw std::runtime_error("the log is full"); // which keeps nothing from what follows
    });
    REQUIRE(h.load(R"(
[[wire]]
name = "judge"
when = "hoist.raised"
do = { action = "hoist.judge", parameters = { shown = "{shown}" }, failed = [
  { action = "board.write", parameters = { text = "{shown}: {why}" } },
  { action = "bell.ring", at = "no bell", failed = { action = "board.write", parameters = { text = "{why}" } }, parameters = { strokes = 1 } },
] }
)") == "");
    CHECK_THROWS_AS(h.raised.publish({flag::gull}), std::runtime_error);
    CHECK(h.said() == "gull: the wrong flag | 'no bell' is not there");
    CHECK(failures == "judge, hoist.judge: the wrong flag\njudge, bell.ring: 'no bell' is not there\n");
    CHECK(h.load(R"(
[[wire]]
when = "hoist.raised"
do = { action = "hoist.judge", parameters = { shown = "{shown}" }, done = { action = "board.write", parameters = { text = "{why}" } } }
)")
              .find("'why' is neither a field of") != std::string::npos);

    // Whoever hears of it may end the wiring.
    auto own = std::make_unique<courier::wiring>("own");
    own->offer(h.raised);
    courier::subscriber in("in");
    own->action(in, "fail", [] { return courier::outcome<void>(courier::failed{"never"}); });
    own->load_text("own.toml",
                   "[[wire]]\nwhen = \"hoist.raised\"\ndo = [{ action = \"fail\", failed = \"fail\" }, \"fail\"]\n");
    int told = 0;
    log.subscribe(own->failed(), [&] {
        ++told;
        own.reset();
    });
    h.raised.publish({flag::whale});
    CHECK(told == 1);
}
