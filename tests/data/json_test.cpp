// Values to JSON, from JSON and in words: a table of what fits and of what does not.
#include "../support.hpp"
#include <courier/data/in_words.hpp>
#include <courier/data/json.hpp>

#include <nlohmann/json.hpp>

#include <cmath>

namespace reef_data {

enum class flag : std::uint8_t { whale, gull, anchor };
struct Place {
    int x;
    double y;
    bool operator==(const Place&) const = default;
};
struct Moored {
    std::uint8_t barge;
    int berth = 1;
    flag shown = flag::gull;
    std::string master;
    std::optional<Place> at;
    std::chrono::duration<double> late{};
    std::vector<Place> stops;
    std::vector<bool> dry;
    bool operator==(const Moored&) const = default;
};
/// Without a std::string, which clang 16 cannot make in constants with the library of g++ 12.
struct Berthed {
    std::uint8_t barge;
    int berth = 1;
    flag shown = flag::gull;
    std::optional<Place> at;
    std::chrono::duration<double> late{};
    std::vector<Place> stops;
    bool operator==(const Berthed&) const = default;
};
struct Nothing {};
struct Sealed {
    void* unknown = nullptr;
    std::string_view view = {};
    int last = 3;
};
struct Crate {
    int number = 0;
    std::vector<Crate> inside;
};

} // namespace reef_data

namespace {

using namespace reef_data;
using courier::json_code;
using courier::missing_fields;
using courier::null_fields;
using courier::unknown_fields;

constexpr double infinity = std::numeric_limits<double>::infinity();
const std::string least = R"({"barge":3,"stops":[]})";

Berthed berthed() {
    return {3, 2, flag::whale, Place{-4, 0.5}, std::chrono::milliseconds(1500), {{1, infinity}}};
}

Moored whole() {
    using namespace std::chrono_literals;
    return {3, 2, flag::whale, "Is\"olde\n", Place{-4, 0.5}, 1500ms, {{1, infinity}, {2, -infinity}}, {true, false}};
}

TEST_CASE("values survive JSON, and an outside reader takes it") {
    const std::string text = courier::to_json(whole());
    CHECK(text == R"({"barge":3,"berth":2,"shown":"whale","master":"Is\"olde\n","at":{"x":-4,"y":0.5},"late":1.5,)"
                  R"("stops":[{"x":1,"y":"Infinity"},{"x":2,"y":"-Infinity"}],"dry":[true,false]})");
    CHECK(nlohmann::json::accept(text));
    Moored back{};
    CHECK(courier::from_json(text, back).empty());
    CHECK(back == whole());

    Place far{};
    CHECK(courier::from_json(courier::to_json(Place{1, std::nan("")}), far).empty());
    CHECK(std::isnan(far.y));
    CHECK(courier::to_json(Nothing{}) == "{}");
    CHECK(courier::to_json(flag::anchor) == R"("anchor")");
    CHECK(courier::to_json(static_cast<flag>(9)) == "9");
    std::vector<std::optional<int>> list;
    CHECK(courier::from_json("[1,null,3]", list).empty());
    CHECK(courier::to_json(list) == "[1,null,3]");
    const courier::state<int> crates{"crates", 40};
    CHECK(courier::to_json(crates) == "40");
}

TEST_CASE("values are told in words") {
    CHECK(courier::in_words(whole()) ==
          "barge 3, berth 2, shown whale, master Is\"olde\n, at (x -4, y 0.5), late 1.5 s, "
          "stops [(x 1, y inf), (x 2, y -inf)], dry [yes, no]");
    CHECK(courier::in_words(Moored{.barge = 1, .master = "A", .stops = {}, .dry = {}}) ==
          "barge 1, berth 1, shown gull, master A, at nothing, late 0 s, stops [], dry []");
    CHECK(courier::in_words(flag::gull) == "gull");
    CHECK(courier::in_words(Nothing{}).empty());
    CHECK(courier::in_words(Sealed{}) == "unknown unknown, view , last 3");
    const courier::state<flag> hoisted{"hoisted", flag::anchor};
    CHECK(courier::in_words(hoisted) == "anchor");
}

TEST_CASE("what does not fit is told with its place, and nothing changes") {
    const std::string needed = least.substr(1, least.size() - 2);
    const auto with = [&](const std::string& more) { return "{" + needed + "," + more + "}"; };
    struct row {
        std::string text;
        std::string told; // of the first fault; empty: it fits
        courier::json_rules rules = {};
    };
    const std::vector<row> rows{
        {least, ""}, // the others are optional, or have an initializer
        {"{}", "/barge: is missing; it must be a whole number from 0 to 255 [courier.data.missing-field]"},
        {"{}", "", {.missing = missing_fields::kept}},
        {"[", "the text is not JSON (RFC 8259), or nests more than 64 deep [courier.data.not-json]"},
        {std::string(70, '['), "the text is not JSON (RFC 8259), or nests more than 64 deep [courier.data.not-json]"},
        {"[]", "the text must be an object with fields, but is a list [courier.data.wrong-type]"},
        {with(R"("bert":1)"), "/bert: is not a field of reef_data::Berthed; did you mean 'berth'? "
                              "[courier.data.unknown-field]"},
        {with(R"("bert":1)"), "", {.unknown = unknown_fields::passed_over}},
        {with(R"("berth":"2")"), "/berth: must be a whole number, but is a text [courier.data.wrong-type]"},
        {with(R"("berth":2.5)"), "/berth: must be a whole number, but is the number 2.5 [courier.data.wrong-type]"},
        {with(R"("berth":3000000000)"),
         "/berth: must be a whole number, but is the number 3000000000 [courier.data.out-of-range]"},
        {with(R"("barge":256)"),
         "/barge: must be a whole number from 0 to 255, but is the number 256 [courier.data.out-of-range]"},
        {with(R"("barge":-1)"),
         "/barge: must be a whole number from 0 to 255, but is the number -1 [courier.data.out-of-range]"},
        {with(R"("shown":"gul")"), "/shown: must be one of whale, gull, anchor, but is 'gul'; did you mean 'gull'? "
                                   "[courier.data.unknown-value]"},
        {with(R"("shown":2)"), ""},
        {with(R"("berth":null)"), "/berth: must be a whole number, but is null [courier.data.wrong-type]"},
        {with(R"("berth":null)"), "", {.nulls = null_fields::as_missing}},
        {with(R"("barge":null)"),
         "/barge: is missing; it must be a whole number from 0 to 255 [courier.data.missing-field]",
         {.nulls = null_fields::as_missing}},
        {with(R"("at":null)"), ""},
        {with(R"("at":{"x":1})"), "/at/y: is missing; it must be a number [courier.data.missing-field]"},
        {with(R"("stops":[{"x":1,"y":2},{"x":"Infinity","y":"NaN"}])"),
         "/stops/1/x: must be a whole number, but is a text [courier.data.wrong-type]"},
        {with(R"("late":"inf")"), "/late: must be a time in seconds, but is a text [courier.data.wrong-type]"},
        {with(R"("a/b~c":1)"), "/a~1b~0c: is not a field of reef_data::Berthed [courier.data.unknown-field]"},
    };
    const auto shape = courier::shape_of<Berthed>();
    for (const row& one : rows) {
        CAPTURE(one.text);
        Berthed into = berthed();
        const auto faults = courier::from_json(one.text, into, one.rules);
        CHECK((faults.empty() ? std::string() : faults.front().text()) == one.told);
        CHECK((faults.empty() || into == berthed()));
        // The same without the type.
        const auto also = courier::check_json(one.text, shape, one.rules);
        CHECK((also.empty() ? std::string() : also.front().text()) == one.told);
    }
    Berthed into{};
    CHECK(courier::from_json(R"({"berth":"","shown":[]})", into).size() == 4); // all of them, at once
}

TEST_CASE("what nobody can fill is told, and what is too deep") {
    Sealed sealed;
    CHECK(courier::from_json(R"({"view":"gone"})", sealed).front().text() ==
          "/view: cannot be filled, since it is a view of memory that it does not own, or of an unknown type "
          "[courier.data.not-writable]");
    CHECK(courier::from_json(R"({"unknown":null,"view":null,"last":4})", sealed).empty());
    CHECK(sealed.last == 4);

    Crate crate;
    for (int i = 0; i < 30; ++i) { // deeper than any schema
        Crate around;
        around.inside.push_back(crate);
        crate = around;
    }
    const std::string text = courier::to_json(crate);
    CHECK(text.find("null") != std::string::npos);
    CHECK(nlohmann::json::accept(text));
    std::string deep = R"({"inside":[]})";
    for (int i = 0; i < 10; ++i) {
        deep = R"({"inside":[)" + deep + "]}";
    }
    CHECK(courier::from_json(deep, crate).front().code == json_code::too_deep);
}

} // namespace
