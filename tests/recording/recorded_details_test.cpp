// Details of what is recorded: unusual payloads, lines of any length, causes, addresses, and no memory.
#include "recording_scene.hpp"

using namespace recording_scene;

namespace {

struct Painted {
    char code[4] = {};
    const char* by = nullptr;
    std::vector<bool> dry;
    int coats = 0x21212121;
};
WIRED_COURIER_FIELDS(Painted, code, by, dry)

struct Saved {
    std::string bytes;
};

struct Hail {
    using address = std::string;
    int n = 0;
};
struct Bell {
    int n = 0;
};

} // namespace

TEST_CASE("text without its zero, text that is not there, and packed truths are recorded as they are") {
    const scratch file("painted.jsonl");
    {
        ledger night("night");
        recorder to_file(night, file.path());
        night.attach_everything();
        channel<Painted> painted("painted");
        painted.publish({{'S', 'H', 'I', 'P'}, nullptr, {true, false}});
        painted.publish({{'T', 'U', 'G', 0}, "Orla", {}});
    }
    const run read = courier::read_run(file.path());
    REQUIRE(read.events.size() == 2);
    CHECK(read.payload_of(read.events[0]) == R"({"code":"SHIP","by":null,"dry":[true,false]})");
    CHECK(read.payload_of(read.events[1]) == R"({"code":"TUG","by":"Orla","dry":[]})");
}

TEST_CASE("lines of any length are read again; what is longer than all sense is left out, and said so") {
    const scratch file("long.jsonl");
    {
        ledger night("night");
        recorder to_file(night, file.path(), {.facts = {{"long", std::string(100'000, 'f')}}});
        night.attach_everything();
        channel<Saved> saved(std::string(20'000, 'n') + "\xc3\xa4");
        courier::subscriber in("in");
        in.subscribe(saved, [] {});
        saved.publish({"small"});
        saved.publish({std::string(std::size_t{2} << 20, 'x')});
        saved.publish({std::string(std::size_t{9} << 20, '\1')});
        saved.publish({"small again"});
        night.end_frame();
    }
    const run read = courier::read_run(file.path());
    REQUIRE(read.events.size() == 4);
    CHECK(read.finished);
    CHECK(read.payload_of(read.events[1]).size() > (std::size_t{2} << 20));
    CHECK(read.payload_of(read.events[2]).empty());
    CHECK(read.events[2].is_cut);
    CHECK_FALSE(read.events[2].was_unheard());
    CHECK(courier::books_of(read).channels.at(0).unheard == 0);
    const courier::why_not_answer why = courier::why_not(read, {.channel = read.channels.at(0).name, .party = "in"});
    CHECK(why.heard == 3);
    REQUIRE(why.reasons.size() == 1);
    CHECK(why.reasons[0].why == courier::unheard_reason::not_recorded);
    CHECK(why.reasons[0].example == read.events[2].id);
    CHECK(read.payload_of(read.events[3]) == R"({"bytes":"small again"})");
    CHECK(test::contains(file.text(), R"("left_out":)"));
}

TEST_CASE("what waited under another ledger has no cause in this one's recording") {
    const scratch file("second.jsonl");
    channel<Bell> bell("bell");
    courier::outbox later("later");
    courier::subscriber in("in");
    in.subscribe(bell, [] {});
    {
        ledger first("first");
        first.attach_everything();
        later.post(bell, {1});
    }
    {
        ledger second("second");
        recorder to_file(second, file.path());
        second.attach_everything();
        later.deliver();
        second.end_frame();
    }
    const run read = courier::read_run(file.path());
    REQUIRE(read.events.size() == 1);
    CHECK(read.events[0].cause == 0);
}

TEST_CASE("an address belongs to the publish that it was given to, whatever its handlers do") {
    const scratch file("addresses.jsonl");
    for (const bool throws : {false, true}) {
        courier::addressed_channel<Hail, std::string> a("a");
        channel<Bell> b("b");
        courier::outbox later("later");
        courier::subscriber in("in");
        {
            ledger night("night");
            recorder to_file(night, file.path());
            night.attach(b);
            in.subscribe(b, [] {});
            in.subscribe(a, [&] {
                if (throws) {
                    throw std::runtime_error("squall");
                }
                b.publish({7});
            });
            later.post_to(a, std::string(400, 'a'), {1});
            try {
                later.deliver();
            } catch (const std::runtime_error&) {}
            b.publish({8});
        }
        for (const courier::recorded_event& e : courier::read_run(file.path()).events) {
            CHECK(e.to == 0);
        }
    }
}

TEST_CASE("what a function of a subscriber publishes is the subscriber's, also when it ends with that call or has no "
          "channel") {
    const scratch file("makers.jsonl");
    {
        ledger night("night");
        recorder to_file(night, file.path());
        night.attach_everything();
        channel<Bell> rung("rung");
        channel<Bell> answered("answered");
        courier::state<int> tide("tide");
        courier::outbox later("later");
        courier::timetable hours(later);
        courier::subscriber in("keeper");
        const auto answer = [&] { answered.publish({1}); };
        in.subscribe(rung, answer, {.times = 1});
        in.once(rung, answer);
        in.after(hours, std::chrono::seconds(1), answer);
        in.every(hours, std::chrono::seconds(1), answer);
        in.keep_current([&] {
            static_cast<void>(tide.read());
            answer();
        });
        rung.publish({1});
        hours.advance(std::chrono::seconds(1));
        later.deliver();
        tide.set(2);
        answer(); // and nobody's
        courier::group<int> crew("crew");
        courier::tally<int> ready("ready", {1});
        static_cast<void>(crew.join(1)); // and it leaves at once
        ready.report(1);
    }
    const run recorded = courier::read_run(file.path());
    std::vector<std::string> makers;
    std::size_t of_parts = 0; // of the library, which are made in a line of this file
    for (const courier::recorded_event& e : recorded.events) {
        const std::string channel = e.id != 0 ? recorded.channels[e.channel].name : std::string();
        if (channel.starts_with("crew.") || channel.starts_with("ready.")) {
            ++of_parts;
            CHECK(recorded.maker_of(e) == "recorded_details_test.cpp");
        }
        if (e.id != 0 && e.channel == recorded.channel_named("answered")) {
            makers.push_back(recorded.maker_of(e));
        }
    }
    CHECK(makers == std::vector<std::string>{"keeper", "keeper", "keeper", "keeper", "keeper", "keeper",
                                             "recorded_details_test.cpp"});
    CHECK(of_parts == 5); // joined, left, expected, reported, completed
}

TEST_CASE("memory: a recording is whole in each line, whichever allocation fails") {
    const scratch file("no_memory.jsonl");
    bool happened = true;
    for (long which = 1; happened && which < 400; ++which) {
        CAPTURE(which);
        {
            ledger night("night");
            recorder to_file(night, file.path());
            night.attach_everything();
            const test::memory_full full(which);
            try {
                channel<Landed> landed("landed, a name that is longer than what is kept inside of a string");
                courier::addressed_channel<Hailed> hailed("hailed");
                courier::outbox later("later");
                courier::subscriber in("in");
                in.subscribe(landed, [&](const Landed& l) {
                    if (l.barge < 3) {
                        landed.publish({.barge = l.barge + 1});
                    }
                });
                landed.publish({.barge = 1, .crates = {{"a crate with a long name, longer than is kept inside", 2}}});
                later.post_to(hailed, 5, {3});
                later.deliver();
                night.end_frame();
            } catch (const std::bad_alloc&) {}
            happened = full.happened();
        }
        const run read = courier::read_run(file.path());
        CHECK(read.finished);
        CHECK(read.events.size() <= 6);
    }
    CHECK_FALSE(happened);
}

TEST_CASE("an address of an enumeration is told by its name, and found by it") {
    const scratch file("named.jsonl");
    {
        ledger night("night");
        const recorder to_file(night, file.path());
        night.attach_everything();
        courier::addressed_channel<Landed, test::berth> landed("landed");
        landed.publish_to(test::berth::north, {});
        landed.publish_to(static_cast<test::berth>(9), {});
    }
    const run read = courier::read_run(file.path());
    CHECK(read.texts[read.find(1)->to] == "north");
    CHECK(read.texts[read.find(2)->to] == "9");
    const courier::run_selection north(read, {.address = "north"});
    CHECK(north(read.events[0]));
    CHECK_FALSE(north(read.events[1]));
}
