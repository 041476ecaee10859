// What is said of every mistake, word for word, and of actions that fail.
#include "support.hpp"

using namespace wired;

namespace {

std::string text_of(const std::string& name) {
    std::ifstream in(std::filesystem::path(WIRED_COURIER_TEST_FILES) / name, std::ios::binary);
    return {std::istreambuf_iterator<char>(in), {}};
}

std::string first_line(const std::string& text) {
    return text.substr(0, text.find('\n'));
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

TEST_CASE("what is no TOML is told with its place, and columns count characters") {
    harbour h;
    CHECK(first_line(h.load("[[wire]\n")) == "harbour.toml:1:8: a bracket is missing [courier.wiring.not-toml]");
    CHECK(first_line(h.load("[[wire]]\nnote = 'ünder der Brücke'\ndo = 'x' # \xff\n")).find("not-toml") !=
          std::string::npos);
    CHECK(first_line(h.load("[[%]]\n")).find("not-toml") != std::string::npos);
    CHECK(h.load("[[wire]]\nwhen = 'hoist.raised'\nif = { shown = 'gull', ä = 1 }\ndo = 'horn.sound'\n")
              .starts_with("harbour.toml:3:") == true);
}

TEST_CASE("the usual slips of TOML get an answer in words for designers") {
    harbour h;
    struct row {
        std::string lines; ///< of a wire
        std::string advice;
    };
    const std::vector<row> rows{
        {"when = hoist.raised", "write \"hoist.raised\""},
        {"when = 'hoist.raised", "close it with the quotation mark that it began with"},
        {"when = \u201choist.raised\u201d", "write straight ones: \"...\""},
        {"when: 'hoist.raised'", "write when = ..."},
        {"note = 'a'\nnote = 'b'", "take one of them out"},
        {"fog bell = 3", "write \"fog bell\" = ..."},
        {"enabled = True", "write true"},
        {"enabled = no", "write false"},
        {"enabled =", "write one, or take the line out"},
        {"// once only", "begin comments with #"},
        {"if = { up > 3 }", "write up = { more_than = 3 }"},
        {"if = { up >= 3 }", "write up = { at_least = 3 }"},
        {"if = { up == 3 }", "write up = 3"},
        {"do = {\n action = 'horn.sound'\n}", "write it on one line; a list of actions, [ ... ], may go over several"},
        {"do = { action = 'horn.sound', }", "take it out"},
        {"do = { action = 'horn.sound' at = 'x' }", "put commas between the fields of { } and the items of [ ]"},
        {"[[wire]", "write [[wire]]"},
        {"[[", "write [[wire]]"},
        {"[]", "write [[wire]], [[fill]], [pattern.name] or [set.name]"},
        {"delay = 3", "did you mean 'after'?"},
        {"success = 'horn.sound'", "it may have: name, note, when, at, during, if, while, do, else, stop, after, "
                                   "times and 4 more"},
        {"when = []", "write when = "},
        {"when = ['hoist.raised', 'hoist.raised']", "take one of them out"},
        {"when = 'tide.level'\nstop = true", "stop the event that changes it"},
        {"otherwise = 'horn.sound'", "did you mean 'else'?"},
        {"else = 'horn.sound'\ndo = 'horn.sound'", "write a condition, or take 'else' out"},
        {"do = { action = 'horn.sound', done = { action = 'horn.sound', after = 1 } }",
         "let it follow at once, or write a wire of its own for what comes later"},
        {"during = 'storm'", "did you mean 'watch.storm'?"},
        {"while = { watch = 'storm' }", "phases go into 'during': during = \"watch.storm\""},
        {"do = { action = 'horn.sound', success = 'horn.sound' }", "did you mean 'done'?"},
    };
    for (const row& one : rows) {
        CAPTURE(one.lines);
        const std::string told = h.load("[[wire]]\n" + one.lines + "\n");
        CHECK_MESSAGE(test::contains(told, "\n    " + one.advice), told);
        for (std::size_t end = 0; end < one.lines.size(); ++end) { // cut short anywhere: refused or taken, no more
            CHECK_NOTHROW(static_cast<void>(h.load("[[wire]]\n" + one.lines.substr(0, end))));
            CHECK_NOTHROW(static_cast<void>(h.load(one.lines.substr(end))));
        }
    }
    CHECK(test::contains(h.load("[wire]\nwhen = 'hoist.raised'\n"), "write [[wire]], with two brackets"));
    CHECK(test::contains(h.load("[wire]\nwhen = 'a'\n[wire]\nwhen = 'b'\n"), "write [[wire]]"));
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
