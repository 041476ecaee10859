// The tool where something around it is not as it should be.
#include "tool_support.hpp"

#include <algorithm>
#include <chrono>
#include <filesystem>
#include <fstream>
#include <iterator>

namespace {

std::string scratch(const std::string& name) {
    return std::string{TEST_SCRATCH} + "/" + name;
}

std::string text_of(const std::string& file) {
    std::ifstream in(file, std::ios::binary);
    return {std::istreambuf_iterator<char>(in), {}};
}

std::string recorded_night() {
    const std::string file = scratch("trouble.jsonl");
    REQUIRE(courier_tool("demo --quiet --frames 120 --record " + file).code == 0);
    return file;
}

// As a shell runs it, with its own redirections.
int code_of(const std::string& arguments) {
    return WEXITSTATUS(std::system((std::string{COURIER_TOOL} + " " + arguments).c_str()));
}

} // namespace

TEST_CASE("closed standard streams end in no file, and in no abort") {
    const std::string file = scratch("closed.jsonl");
    CHECK(code_of("demo --frames 60 --record " + file + " >&- 2>/dev/null") == 2);
    const std::string recorded = text_of(file);
    CHECK(recorded.starts_with("{\"specversion\""));
    CHECK_FALSE(test::contains(recorded, "night over"));
    CHECK(code_of("stats /nowhere 2>&-") == 2);
    CHECK(code_of("stats /nowhere 2>/dev/full") == 2);
    CHECK(code_of("stats " + recorded_night() + " <&- >/dev/null") == 0);
}

TEST_CASE("watch says when it cannot write, or cannot read such a thing, and ends in time") {
    const std::string night = recorded_night();
    CHECK(code_of("watch " + night + " --for 1s >/dev/full 2>/dev/null") == 2);
    CHECK(code_of("watch " + night + " --for 1s --json >&- 2>/dev/null") == 2);
    check_bad_use("watch /tmp",
                  "courier: /tmp: cannot be read: it is a folder; name a recording [courier.recording.cannot-open]");
    const auto begun = std::chrono::steady_clock::now();
    const run_result r = courier_tool("watch /dev/zero --for 1s");
    CHECK(r.code == 2);
    CHECK(test::contains(r.err, "/dev/zero:1: the line has over 16777216 bytes"));
    CHECK(std::chrono::steady_clock::now() - begun < std::chrono::seconds(60));
}

TEST_CASE("what a recording of somebody else's says does nothing to the terminal") {
    const std::string night = recorded_night();
    std::string text = text_of(night);
    const std::string name = "\"wyrms.sighted\"";
    for (std::size_t at = text.find(name); at != std::string::npos; at = text.find(name, at)) {
        text.replace(at, name.size(), "\"\\u001b]0;title\\u0007\\u001b[31mwyrms\\u202e\"");
    }
    const std::string odd = scratch("odd.jsonl");
    std::ofstream(odd, std::ios::binary) << text;
    for (const std::string& command : {"map " + odd, "stats " + odd, "compare " + night + " " + odd, "lanes " + odd,
                                       "audit " + odd, "explain " + odd + " --channel tides.turned"}) {
        CAPTURE(command);
        const run_result r = courier_tool(command);
        CHECK((r.out + r.err).find_first_of("\033\007") == std::string::npos);
        CHECK_FALSE(test::contains(r.out + r.err, "\u202e"));
    }
    CHECK(test::contains(courier_tool("stats " + odd).out, "\\u001b]0;title\\u0007\\u001b[31mwyrms\\u202e"));
}

TEST_CASE("no command writes over the recording that it reads, and a recording needs a file") {
    const std::string night = recorded_night();
    const std::string before = text_of(night);
    const std::string other_way = scratch("./trouble.jsonl");
    for (const char* command : {"map", "lanes"}) {
        const std::string option = command == std::string{"map"} ? "--dot " : "--msc ";
        const run_result r = courier_tool(command + (" " + night) + " " + option + other_way);
        CHECK(r.code == 2);
        CHECK(test::contains(r.err, "is the recording itself, which would be lost; name another file"));
        CHECK(courier_tool(command + (" " + night) + " --svg " + night).code == 2);
    }
    CHECK(text_of(night) == before);
    const run_result r = courier_tool("demo --record -");
    CHECK(r.code == 2);
    CHECK(test::contains(r.err, "a recording goes into a file"));
    CHECK_FALSE(std::filesystem::exists("-"));
}

TEST_CASE("without a folder for scratch files the trouble is named") {
    const std::string night = recorded_night();
    const std::string errors = scratch("no_folder.txt");
    CHECK(WEXITSTATUS(std::system(("TMPDIR=/nowhere/at/all " + std::string{COURIER_TOOL} + " map " + night + " --svg " +
                                   scratch("a.svg") + " 2>" + errors)
                                      .c_str())) == 2);
    CHECK(test::contains(text_of(errors), "TMPDIR names '/nowhere/at/all' (No such file or directory)"));
}

TEST_CASE("replay: how the program ended, and an answer that says nothing") {
    const std::string night = recorded_night();
    const run_result failed = courier_tool("replay " + night + " --with false");
    CHECK(failed.code == 2);
    CHECK(test::contains(failed.err, "'false' ended with exit code 1 and did not say what came of the replay"));
    for (const char* answer : {"{}", "{\\\"same\\\":1}", "{\\\"same\\\":\\\"1\\\",\\\"of\\\":-2}", "[]", "nonsense"}) {
        CAPTURE(answer);
        const run_result r =
            courier_tool("replay " + night + " --with \"echo '" + answer + "' > \\$WIRED_COURIER_REPLAY_RESULT\"");
        CHECK(r.code == 2);
        CHECK(test::contains(r.err, "did not say what came of the replay"));
    }
}

TEST_CASE(
    "an option that a command does not have, and an address that nothing was for, are told with those there are") {
    const std::string night = recorded_night();
    const run_result option = courier_tool("audit " + night + " --frames 3");
    CHECK(option.code == 2);
    CHECK(test::contains(option.err, "'--frames' is not an option of 'courier audit'; see 'courier audit --help'"));
    const run_result address = courier_tool("stats " + night + " --address nowhere");
    CHECK(address.code == 2);
    CHECK(test::contains(address.err, "has no event for address 'nowhere'"));
    for (const char* odd : {"stats $NIGHT --channel $ODD", "explain $NIGHT $ODD", "stats $NIGHT $ODD", "$ODD"}) {
        CAPTURE(odd);
        CHECK(WEXITSTATUS(std::system(("NIGHT=" + night + " ODD=$(printf '\\377\\376'); " + std::string{COURIER_TOOL} +
                                       " " + odd + " 2>" + scratch("odd.txt") + " >/dev/null")
                                          .c_str())) == 2);
        CHECK_FALSE(test::contains(text_of(scratch("odd.txt")), "json.exception"));
    }
}

TEST_CASE("a recording with causes in a circle is refused by every command, and at once") {
    const std::string file = scratch("circle.jsonl");
    std::ofstream(file)
        << R"({"specversion":"1.0","id":"line-1","source":"/x","type":"wired-courier.recording","frame":0,"data":{"format":1,"facts":{}}})"
        << '\n'
        << R"({"specversion":"1.0","id":"1","source":"/x","type":"wired-courier.event","frame":0,"channel":1,"subject":"hit","cause":"1","data":{"at":"a.cpp:1"}})"
        << '\n';
    for (const char* command : {"audit", "stats", "map", "lanes", "watch"}) {
        CAPTURE(command);
        const run_result r = courier_tool(command + (" " + file));
        CHECK(r.code == 2);
        CHECK(test::contains(r.err, ":2: event 1 is said to be caused by event 1, which is not before it"));
    }
}

TEST_CASE("broken recordings and wrong options give one clear line each") {
    const std::string file = scratch("broken.jsonl");
    const std::string night = recorded_night();
    const auto says = [&](const std::string& arguments, const std::string& message) {
        CAPTURE(arguments);
        const run_result r = courier_tool(arguments);
        CHECK(r.code == 2);
        CHECK(r.out.empty());
        CHECK(test::contains(r.err, message));
        CHECK(std::count(r.err.begin(), r.err.end(), '\n') == 1);
    };
    std::ofstream(file) << "not a recording\n";
    for (const char* command : {"audit", "map", "lanes", "stats", "replay", "watch"}) {
        says(command + (" " + file), "courier: " + file + ":1: not a recording");
    }
    says("stats /nowhere.jsonl",
         "courier: /nowhere.jsonl: cannot be read: No such file or directory; name a recording");
    says("stats", "FILE is required");
    says("stats " + night + " --channel wyrms.sigted", "has no channel 'wyrms.sigted'; did you mean 'wyrms.sighted'?");
    says("lanes " + night + " --frames x:3", "--frames: 'x:3' is not a range of frames such as 10:20");
    says("lanes " + night + " --frames 9:3", "ends before it begins");
    says("explain " + night, "give WHAT to explain");
    says("explain " + night + " wyrms.sighted --why-not horn",
         "'wyrms.sighted' and --why-not are two questions; the channel of --why-not is named by --channel");
    says("explain " + night + " 999999", "has no event 999999; it has 1 to ");
    says("demo --quiet --record /nowhere/night.jsonl",
         "/nowhere/night.jsonl: cannot be written: No such file or directory");
    says("demo --serve --folder nosuch", "nosuch: there is no such folder");
    says("map " + night + " --svg /nowhere/map.svg", "cannot write /nowhere/map.svg: No such file or directory");
    const run_result full = courier_tool("lanes " + night + " --frames 30:31 --svg /dev/full");
    CHECK(full.code == 2);
    CHECK(test::contains(full.err, "courier: cannot write /dev/full: No space left on device\n"));
    std::ifstream in(night);
    std::string text(std::istreambuf_iterator<char>(in), {});
    std::ofstream(file) << text.substr(0, text.size() / 2);
    const run_result cut = courier_tool("stats " + file);
    CHECK(cut.code == 0);
    CHECK(test::contains(cut.err, "; the file is cut in line "));
    text.replace(text.find("courier demo"), 12, "another game");
    std::ofstream(file) << text;
    says("replay " + file, "not a recording of 'courier demo', so its own program has to replay it");
}
