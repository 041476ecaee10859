// The tool, as a process.
#include "tool_support.hpp"

#include <courier/data/json.hpp>
#include <courier/ferry/ferry_fault.hpp>
#include <courier/gateway/gateway_fault.hpp>
#include <courier/recording/recording_fault.hpp>
#include <courier/wiring/catalogue_fault.hpp>
#include <courier/wiring/console.hpp>
#include <courier/wiring/wiring_fault.hpp>

TEST_CASE("courier demo prints the same night for the same seed") {
    const run_result one = courier_tool("demo --seed 7");
    const run_result two = courier_tool("demo --seed 7");
    const run_result other = courier_tool("demo --seed 8");
    CHECK(one.code == 0);
    CHECK(one.err.empty());
    CHECK(one.out == two.out);
    CHECK(one.out != other.out);
    CHECK(other.code == 0);
    // As 'scripts/demo' runs it, without recording, gateway and ferry.
    CHECK(test::run_program(COURIER_NIGHT, "demo --seed 7").out == one.out);
    CHECK(test::run_program(COURIER_NIGHT, "demo --record night.jsonl").code == 2);
    // All crates that set out come in or are lost, however long the night.
    CHECK(test::contains(courier_tool("demo --quiet --frames 9000").out, "4 moored, 0 crates in, 160 lost\n"));
}

TEST_CASE("courier codes explains every code there is, and no other") {
    std::set<std::string> ids{"courier.tool.usage", "courier.tool.system"};
    const auto add = [&]<class... Code>(std::type_identity<Code>...) {
        for (const auto& values : {courier::shape_of<Code>().values...}) {
            ids.insert(values.begin(), values.end());
        }
    };
    for (std::size_t i = 0; i < courier::fault_codes; ++i) {
        ids.emplace(id_of(static_cast<courier::fault_code>(i)));
    }
    add(std::type_identity<courier::finding_code>{}, std::type_identity<courier::json_code>{},
        std::type_identity<courier::recording_code>{}, std::type_identity<courier::wiring_code>{},
        std::type_identity<courier::catalogue_code>{}, std::type_identity<courier::gateway_code>{},
        std::type_identity<courier::ferry_code>{}, std::type_identity<courier::console_code>{});
    std::set<std::string> told;
    std::istringstream lines(courier_tool("codes").out);
    for (std::string line; std::getline(lines, line);) {
        told.insert(line.substr(0, line.find(' ')));
    }
    CHECK(told == ids);
    CHECK(test::contains(courier_tool("codes wiring.never-holds").out, "\n  cure     Choose bounds"));
    check_bad_use("codes wiring.never-hold", "courier: 'wiring.never-hold' is not a code; did you mean "
                                             "'courier.wiring.never-holds'? [courier.tool.usage]");
}

TEST_CASE("colours appear on a terminal only, and not with NO_COLOR") {
    CHECK_FALSE(test::contains(courier_tool("demo").out, "\x1b["));
    const auto on_terminal = [](const std::string& environment) {
        const std::string command = environment + " script -qec '" + COURIER_TOOL + " demo --quiet' /dev/null";
        std::FILE* pipe = popen(command.c_str(), "r");
        REQUIRE(pipe != nullptr);
        std::string text = test::read_all(pipe);
        CHECK(pclose(pipe) == 0);
        CHECK(test::contains(text, "night over"));
        return text;
    };
    CHECK(test::contains(on_terminal(""), "\x1b["));
    CHECK_FALSE(test::contains(on_terminal("NO_COLOR=1"), "\x1b["));
}

TEST_CASE("what the page for designers shows is right") {
    const std::string page = test::content_of(std::string{COURIER_DOCUMENTS} + "/wiring.md");
    int checked = 0;
    for (std::size_t at = page.find("```toml\n"); at != std::string::npos; at = page.find("```toml\n", at + 1)) {
        const std::string text = page.substr(at + 8, page.find("```\n", at + 8) - at - 8);
        const run_result r = courier_tool("check --strict " + test::written("page.toml", text));
        CAPTURE(r.out);
        CHECK(r.code == 0);
        ++checked;
    }
    CHECK(checked == 10);
    const run_result shown = courier_tool(
        "check " + test::written("reef.toml",
                                 std::string(10, '\n') + "[[wire]]\nwhen = \"wyrms.sigthed\"\ndo = \"boom.lower\"\n"));
    const std::size_t text = page.find("reef.toml:12:8");
    CHECK(test::contains(shown.out, page.substr(text, page.find("```", text) - text)));
    CHECK(test::content_of(std::string{COURIER_DOCUMENTS} + "/codes.md") == courier_tool("codes --markdown").out);
}
