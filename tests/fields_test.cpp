// Fields of payloads, found by themselves or named.
#include "support.hpp"

#include <cmath>

namespace fields_of_a_reef {

enum class quarter { north, east, south, west };
enum signal { lamp = 3, horn = 70 };
WIRED_COURIER_ENUM(signal, lamp, horn)

struct Place {
    int x;
    double y;
};
struct Crate {
    std::string what;
    std::vector<Crate> inside;
};
struct Landed {
    std::uint8_t barge;
    quarter from;
    Place at;
    std::chrono::milliseconds late;
    std::optional<Place> berth;
    std::vector<Crate> crates;
    std::string_view note;
    char code[4];
    int soundings[3];
    bool dry;
    void* unknown;
};
struct Letter {
    std::unique_ptr<int> seal;
    std::function<void()> read;
};
struct Nothing {};
struct Older {
    int year;
};
struct Newer : Older {
    int month;
};
struct Referring {
    int& what;
};
struct Mixed {
    int a;
    union {
        int b;
        float c;
    };
};
struct Chosen {
    explicit Chosen(int) {}
};
struct Untold {
    int number;
    Chosen chosen = Chosen(3);
};
struct Flags {
    unsigned open : 1;
    unsigned lit : 1;
};
struct Secret {
    int number;
};
WIRED_COURIER_NO_FIELDS(Secret)
class Lantern {
public:
    explicit Lantern(int its_level) : level(its_level) {}
    int level;
    bool lit = false;

private:
    [[maybe_unused]] int secret_ = 0;
};
WIRED_COURIER_FIELDS(Lantern, lit, level)
struct Tide {
    int f;
    signal s;
};
WIRED_COURIER_FIELDS_AS(Tide, f, "fathoms", s, "signal")

} // namespace fields_of_a_reef

using namespace fields_of_a_reef;
using courier::value_kind;
using courier::detail::field_table;
using courier::detail::fields_of;
using courier::detail::known;
using courier::detail::plain_value;

namespace {

std::string names_of(const field_table* table) {
    std::string all;
    if (table != nullptr) {
        for (const courier::detail::field_entry& entry : table->entries) {
            all += (all.empty() ? "" : " ") + std::string(entry.name);
        }
    }
    return all;
}

template <class T, class Value>
bool fits(Value value) {
    T into{};
    plain_value what;
    if constexpr (std::is_floating_point_v<Value>) {
        what.real = value;
    } else {
        what.integer = value;
    }
    return courier::detail::write_plain(known<T>::type, &into, what);
}

} // namespace

TEST_CASE("a plain struct shows its fields without a line of code") {
    const field_table* const landed = fields_of<Landed>();
    REQUIRE(landed != nullptr);
    CHECK(names_of(landed) == "barge from at late berth crates note code soundings dry unknown");
    const value_kind kinds[] = {value_kind::natural,  value_kind::enumeration, value_kind::object, value_kind::duration,
                                value_kind::optional, value_kind::list,        value_kind::text,   value_kind::text,
                                value_kind::list,     value_kind::truth,       value_kind::other};
    for (std::size_t i = 0; i < landed->entries.size(); ++i) {
        CAPTURE(i);
        CHECK(landed->entries[i].type->kind == kinds[i]);
    }
    CHECK(names_of(landed->entries[2].type->fields) == "x y");
    CHECK(names_of(landed->entries[4].type->inner->fields) == "x y");
    CHECK(names_of(landed->entries[5].type->inner->fields) == "what inside"); // which holds itself
    CHECK(landed->entries[1].type->values.size() == 4);
    CHECK(landed->entries[1].type->values[2].name == "south");
}

TEST_CASE("fields are found where they lie, and read and written there") {
    Landed one{
        7,         quarter::east, {1, 2.5}, std::chrono::milliseconds(1500), {}, {}, "calm", {'T', 'U', 'G', '!'},
        {1, 2, 3}, true,          nullptr};
    const field_table& table = *fields_of<Landed>();
    std::vector<const void*> places(table.entries.size());
    table.locate(&one, places.data());
    CHECK(places[0] == &one.barge);
    CHECK(places[10] == &one.unknown);
    const auto read = [&](std::size_t i) { return courier::detail::read_plain(*table.entries[i].type, places[i]); };
    CHECK(read(0).natural == 7);
    CHECK(courier::detail::name_of_value(*table.entries[1].type, read(1).integer) == "east");
    CHECK(read(3).real == 1.5);
    CHECK(read(6).text == "calm");
    CHECK(read(7).text == "TUG!");
    plain_value seconds;
    seconds.real = 0.25;
    CHECK(courier::detail::write_plain(*table.entries[3].type, const_cast<void*>(places[3]), seconds));
    CHECK(one.late == std::chrono::milliseconds(250));
    CHECK(table.entries[4].type->held(places[4]) == nullptr);
    static_cast<Place*>(table.entries[4].type->hold(const_cast<void*>(places[4])))->x = 9;
    CHECK(one.berth->x == 9);
}

TEST_CASE("what does not fit into a field is refused, and changes nothing") {
    CHECK(fits<std::int8_t>(127));
    CHECK_FALSE(fits<std::int8_t>(128));
    CHECK(fits<std::int8_t>(-128));
    CHECK_FALSE(fits<std::int8_t>(-129));
    CHECK(fits<std::int64_t>(INT64_MIN));
    CHECK(fits<std::uint16_t>(65535));
    CHECK_FALSE(fits<std::uint16_t>(65536));
    CHECK_FALSE(fits<std::uint16_t>(-1));
    CHECK(fits<std::chrono::seconds>(1e9));
    CHECK_FALSE(fits<std::chrono::seconds>(1e30));
    CHECK_FALSE(fits<std::chrono::seconds>(std::nan("")));
    char code[2] = {'a', 'b'};
    plain_value text;
    text.text = "abc";
    CHECK_FALSE(courier::detail::write_plain(known<char[2]>::type, code, text));
    CHECK(code[0] == 'a');
}

TEST_CASE("payloads that cannot be copied show their fields, too") {
    CHECK(names_of(fields_of<Letter>()) == "seal read");
}

TEST_CASE("of what is no plain struct nothing is known, and it is a payload all the same") {
    CHECK(fields_of<Nothing>() == nullptr);
    CHECK(names_of(fields_of<Older>()) == "year");
    CHECK(fields_of<Newer>() == nullptr);
    CHECK(fields_of<Referring>() == nullptr);
    CHECK(fields_of<Mixed>() == nullptr);
    CHECK(fields_of<Untold>() == nullptr);
    CHECK(fields_of<Flags>() == nullptr);
    CHECK(fields_of<std::string>() == nullptr);
    const courier::channel<Newer> newer("newer");
    const courier::channel<Untold> untold("untold");
}

TEST_CASE("fields can be named, renamed and kept back") {
    CHECK(names_of(fields_of<Lantern>()) == "lit level");
    CHECK(names_of(fields_of<Tide>()) == "fathoms signal");
    CHECK(fields_of<Secret>() == nullptr);
    const Lantern one(4);
    const void* places[2];
    fields_of<Lantern>()->locate(&one, places);
    CHECK(places[0] == &one.lit);
    CHECK(places[1] == &one.level);
    CHECK(courier::detail::name_of_value(*fields_of<Tide>()->entries[1].type, 70) == "horn");
    CHECK(courier::detail::name_of_value(*fields_of<Tide>()->entries[1].type, 4).empty());
}

TEST_CASE("changes of states and moves of phases show theirs") {
    CHECK(names_of(fields_of<courier::change<int>>()) == "before after");
    CHECK(fields_of<courier::change<void*>>() == nullptr);
    CHECK(names_of(fields_of<courier::phase_move<quarter>>()) == "from to");
}
