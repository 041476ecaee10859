// Recording and reading back.
#include "recording_scene.hpp"

using namespace recording_scene;

TEST_CASE("what a run consists of is recorded, and read back") {
    const scratch file("some.jsonl");
    record_some(file);
    const run read = courier::read_run(file.path());
    CHECK(read.source == "the night");
    CHECK(read.facts.at("seed") == "7");
    CHECK(read.finished);
    CHECK_FALSE(read.cut);
    CHECK(read.state() == "12 events in 3 frames");
    CHECK(read.frame_times == std::vector<std::int64_t>{500'000'000, 1'000'000'000, 1'500'000'000});
    const courier::recorded_event& first = *read.find(1);
    CHECK(read.channels[first.channel].name == "harbour.landed");
    CHECK(read.channels[first.channel].payload == "test::Landed");
    CHECK(read.payload_of(first) ==
          R"({"barge":0,"at":"south","note":"wet \"crates\"\n","crates":[{"what":"salt","weight":1.5}],"dry":null})");
    CHECK(first.heard == 1);
    CHECK(read.name_of(read.heard[first.first_heard]) == "logbook");
    const courier::recorded_event& post = *read.find(2);
    CHECK(post.is_post);
    CHECK(post.cause == 1);
    CHECK(read.texts[post.outbox] == "end of frame");
    const courier::recorded_event& hail = *read.find(4);
    CHECK(hail.cause == 3);
    CHECK(read.texts[hail.to] == "3");
    CHECK(read.maker_of(hail) == "logbook");
    CHECK(read.find(8)->frame == 1);
}

TEST_CASE("every line is a CloudEvent, whatever is in it") {
    const scratch file("events.jsonl");
    record_some(file);
    std::vector<std::string> ids;
    for (const std::string& line : file.lines()) {
        CAPTURE(line);
        const nlohmann::json event = nlohmann::json::parse(line);
        CHECK(event.at("specversion") == "1.0");
        CHECK(event.at("source").get<std::string>() == "/the%20night");
        CHECK(event.at("type").get<std::string>().starts_with("wired-courier."));
        ids.push_back(event.at("id").get<std::string>());
        CHECK_FALSE(ids.back().empty());
        for (const auto& [name, value] : event.items()) {
            if (name != "data") { // attributes: lower case, and no objects
                CHECK(name.find_first_not_of("abcdefghijklmnopqrstuvwxyz0123456789") == std::string::npos);
                CHECK((value.is_string() || value.is_number_integer() || value.is_boolean()));
                CHECK(value != "");
            }
        }
    }
    std::sort(ids.begin(), ids.end());
    CHECK(std::adjacent_find(ids.begin(), ids.end()) == ids.end());
}

TEST_CASE("payloads of all kinds keep their values, and text that is not UTF-8 does no harm") {
    const scratch file("kinds.jsonl");
    {
        ledger night("night");
        recorder to_file(night, file.path());
        night.attach_everything();
        channel<test::Unnamed> unnamed("unnamed");
        channel<test::Crate> crates("crates");
        courier::state<int> depth("depth", 4);
        courier::subscriber board("board");
        board.subscribe(depth, [] {});
        unnamed.publish(test::Unnamed(5));
        crates.publish({"\xff\xfe tar", std::numeric_limits<double>::infinity()});
        crates.publish({"", 1e300});
        depth.set(-7);
    }
    const run read = courier::read_run(file.path());
    CHECK(read.payload_of(*read.find(1)).empty());
    CHECK(test::contains(std::string{read.payload_of(*read.find(2))}, " tar\",\"weight\":\"Infinity\"}"));
    CHECK(read.payload_of(*read.find(3)) == R"({"what":"","weight":1e+300})");
    CHECK(read.payload_of(*read.find(4)) == R"({"before":4,"after":-7})");
}

TEST_CASE("a recorder that comes late records who is there, and one that goes early leaves the ledger as it was") {
    const scratch file("late.jsonl");
    ledger night("night");
    night.attach_everything();
    channel<Dawn> dawn("dawn");
    courier::subscriber early("early");
    early.subscribe(dawn, [] {});
    early.pause();
    dawn.publish();
    night.end_frame();
    night.end_frame(); // recordings count from their own beginning
    {
        const recorder to_file(night, file.path());
        dawn.publish();
        CHECK(to_file.recorded() == 1);
        night.end_frame();
        dawn.publish();
    }
    dawn.publish();
    const run read = courier::read_run(file.path());
    REQUIRE(read.events.size() == 2);
    CHECK(read.events[0].frame == 0);
    CHECK(read.events[1].frame == 1);
    CHECK(read.frames() == 1);
    CHECK(read.subscriptions.size() == 1);
    CHECK(read.subscriptions.begin()->second.pauses.size() == 1);
    CHECK(read.missed[0].why == courier::turn::paused);
    CHECK(night.read().channels[0].published == 4);
}

TEST_CASE("a ledger that ends first ends its recording") {
    const scratch file("first.jsonl");
    std::optional<ledger> night(std::in_place, "night");
    const recorder to_file(*night, file.path());
    night->attach_everything();
    channel<Dawn> dawn("dawn");
    dawn.publish();
    night.reset();
    dawn.publish();
    CHECK(courier::read_run(file.path()).finished);
    CHECK(courier::read_run(file.path()).events.size() == 1);
}

TEST_CASE("a hundred thousand events are recorded and read back, none lost") {
    const scratch file("many.jsonl");
    {
        ledger night("night");
        const recorder to_file(night, file.path(), {.max_waiting = 100'000});
        night.attach_everything();
        channel<test::Hailed> hailed("hailed");
        courier::subscriber a("a");
        a.subscribe(hailed, [] {});
        for (int i = 0; i < 100'000; ++i) {
            hailed.publish({.order = i});
            if (i % 1000 == 0) {
                night.end_frame();
            }
        }
        CHECK(to_file.recorded() == 100'000);
        CHECK(to_file.skipped() == 0);
    }
    std::uint64_t told = 0;
    const run read = courier::read_run(file.path(), {.progress = [&](std::uint64_t bytes, std::uint64_t of) {
                                           CHECK(bytes <= of);
                                           ++told;
                                       }});
    CHECK(told != 0);
    CHECK(read.events.size() == 100'000);
    CHECK(read.events.back().id == 100'000);
    CHECK(read.payload_of(read.events.back()) == R"({"order":99999})");
}

TEST_CASE("the books of a recording are those of the ledger") {
    const scratch file("books.jsonl");
    courier::books live;
    {
        ledger night("night");
        std::optional<recorder> to_file(std::in_place, night, file.path());
        night.attach_everything();
        channel<Landed> landed("landed");
        courier::addressed_channel<Hailed> hailed("hailed");
        auto wreck = std::make_unique<channel<Dawn>>("wreck");
        courier::outbox later("later");
        const courier::poster<Landed> one(later, landed, {.keep = courier::keep::one});
        courier::subscriber a("a");
        courier::subscriber b("b");
        courier::period shut("shut", {.running = false});
        a.subscribe(landed,
                    [&](const Landed& e) { return e.barge == 2 ? courier::verdict::stop : courier::verdict::go_on; });
        b.subscribe(landed, [] {});
        b.subscribe(landed, [] {}, {.during = shut});
        b.subscribe(hailed.at(1), [] {});
        a.subscribe(*wreck, [] {});
        for (int i = 0; i < 6; ++i) {
            landed.publish({.barge = i});
            one.post({.barge = 10});
            one.post({.barge = 11});
            hailed.publish_to(i % 2, {});
            later.deliver();
            if (i == 3) {
                b.pause();
                wreck.reset();
            }
            night.end_frame();
        }
        live = night.read();
        to_file.reset();
    }
    const courier::books recorded = books_of(courier::read_run(file.path()));
    REQUIRE(recorded.channels.size() == live.channels.size());
    for (std::size_t i = 0; i < live.channels.size(); ++i) {
        const courier::channel_books& x = live.channels[i];
        const courier::channel_books& y = recorded.channels[i];
        CAPTURE(x.name);
        CHECK(x.name == y.name);
        CHECK(x.open == y.open);
        CHECK(x.published == y.published);
        CHECK(x.deliveries == y.deliveries);
        CHECK(x.unheard == y.unheard);
        CHECK(x.stopped == y.stopped);
        CHECK(x.vacant == y.vacant);
        CHECK(x.posted == y.posted);
        CHECK(x.combined == y.combined);
        CHECK(x.frames == y.frames);
        CHECK(x.max_in_frame == y.max_in_frame);
    }
    REQUIRE(recorded.subscriptions.size() == live.subscriptions.size());
    for (std::size_t i = 0; i < live.subscriptions.size(); ++i) {
        CAPTURE(i);
        CHECK(live.subscriptions[i].turns.of == recorded.subscriptions[i].turns.of);
        CHECK(live.subscriptions[i].where == recorded.subscriptions[i].where);
        CHECK(live.subscriptions[i].published_since == recorded.subscriptions[i].published_since);
    }
    REQUIRE(recorded.publishers.size() == live.publishers.size());
    CHECK(recorded.parties.size() == live.parties.size());
    CHECK(recorded.parties[0].lost == 1);
    CHECK(recorded.orders.size() == live.orders.size());
    CHECK(recorded.orders[0].times == live.orders[0].times);
}

TEST_CASE("what a handler destroys is recorded as it was when it was published") {
    const scratch file("destroyed.jsonl");
    {
        ledger night("night");
        const recorder to_file(night, file.path());
        night.attach_everything();
        courier::addressed_channel<Hailed, std::string> hailed("hailed");
        auto name = std::make_unique<std::string>("a name that is too long to lie inside of its string");
        auto order = std::make_unique<Hailed>(Hailed{.order = 5});
        const courier::subscription listener = hailed.subscribe(
            [&] {
                hailed.publish_to("inner", {.order = 6});
                name.reset();
                order.reset();
            },
            {.times = 1});
        hailed.publish_to(*name, *order);
        auto depth = std::make_unique<courier::state<std::string>>("depth", "shallow");
        const courier::subscription last =
            depth->subscribe([&](const courier::change<std::string>&) { depth.reset(); });
        depth->set("deep enough for what is too long to lie inside");
    }
    const run read = courier::read_run(file.path());
    REQUIRE(read.events.size() == 3);
    CHECK(read.texts[read.find(1)->to] == "a name that is too long to lie inside of its string");
    CHECK(read.payload_of(*read.find(1)) == R"({"order":5})");
    CHECK(read.payload_of(*read.find(2)) == R"({"order":6})");
    CHECK(read.payload_of(*read.find(3)) ==
          R"({"before":"shallow","after":"deep enough for what is too long to lie inside"})");
}

TEST_CASE("a recorder may be made and destroyed by a handler") {
    const scratch first("handler_1.jsonl");
    const scratch second("handler_2.jsonl");
    {
        ledger night("night");
        std::optional<recorder> to_file(std::in_place, night, first.path());
        night.attach_everything();
        channel<Hailed> hailed("hailed");
        const courier::subscription listener = hailed.subscribe([&](const Hailed& e) {
            if (e.order == 2) {
                to_file.reset();
                to_file.emplace(night, second.path());
                hailed.publish({.order = 3});
            }
        });
        hailed.publish({.order = 1});
        hailed.publish({.order = 2}); // in neither: the one it began in is gone
    }
    const run one = courier::read_run(first.path());
    const run other = courier::read_run(second.path());
    CHECK(one.events.size() == 1);
    CHECK(one.finished);
    REQUIRE(other.events.size() == 1);
    CHECK(other.payload_of(other.events[0]) == R"({"order":3})");
}
