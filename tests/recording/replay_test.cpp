// Replaying, comparing and explaining recorded runs.
#include "support.hpp"

#include <courier/data/json.hpp>
#include <courier/recording/comparison.hpp>
#include <courier/recording/explanation.hpp>
#include <courier/recording/lanes.hpp>
#include <courier/recording/read_run.hpp>
#include <courier/recording/replay.hpp>
#include <courier/recording/route_map.hpp>
#include <courier/recording/statistics.hpp>

using courier::channel;
using courier::ledger;
using courier::recorder;
using courier::run;
using courier::unheard_reason;
using test::Hailed;
using test::Landed;
using test::scratch;

namespace test {

struct Turned {
    using address = int;
    int by = 0;
};

} // namespace test

namespace {

struct Dawn {};

/// A game that takes orders from another thread, and from its player.
class small_game {
public:
    small_game(courier::replay* again, int wrong_from) : again_(again), wrong_from_(wrong_from) {
        if (again_ != nullptr) {
            again_->feed("hails", out_);
            again_->feed(panel_);
        }
        in_.subscribe(hails_, [this](const Hailed& e) { landed_.publish({.barge = e.order}); });
        in_.subscribe(pressed_, [this](const Landed& e) { hails_.publish({.order = 100 + e.barge}); });
        in_.subscribe(turned_, [this](int valve, const test::Turned& t) { landed_.publish({.barge = valve * t.by}); });
        log_.subscribe(landed_, [] {});
    }
    void step(int frame) {
        if (again_ != nullptr) {
            again_->step();
        } else {
            std::thread([&] { out_.send_to(frame % 2, {.order = frame}); }).join();
            if (frame % 3 == 0) {
                const courier::from_outside now;
                pressed_.publish({.barge = frame, .note = "key"}, line);
                if (frame > 6) {
                    turned_.publish_to(frame, {.by = 2}, line);
                }
            }
        }
        arrivals_.take_in();
        later_.deliver();
        if (frame >= wrong_from_) {
            landed_.publish({.barge = -1});
        }
    }

private:
    static constexpr std::source_location line = std::source_location::current();
    courier::replay* again_;
    int wrong_from_;
    courier::outbox later_{"later"};
    courier::inbox arrivals_{later_};
    courier::addressed_channel<Hailed> hails_{"hails"};
    courier::hub panel_{"panel"};
    channel<Landed>& pressed_ = panel_.channel(courier::channel_name<Landed>("pressed"));
    courier::addressed_channel<test::Turned, int>& turned_ = panel_.channel<test::Turned>();
    channel<Landed> landed_{"landed"};
    courier::addressed_inlet<Hailed> out_{arrivals_, hails_};
    courier::subscriber in_{"game"};
    courier::subscriber log_{"log"};
};

void play(const scratch& file, int frames, int wrong_from = 1000) {
    ledger night("night");
    const recorder to_file(night, file.path());
    night.attach_everything();
    small_game game(nullptr, wrong_from);
    for (int frame = 0; frame < frames; ++frame) {
        game.step(frame);
        night.end_frame();
    }
}

std::optional<std::string> replay(const scratch& file, int frames, int wrong_from = 1000) {
    ledger night("night");
    courier::replay again(night, file.path());
    night.attach_everything();
    small_game game(&again, wrong_from);
    for (int frame = 0; frame < frames && !again.over(); ++frame) {
        game.step(frame);
        night.end_frame();
    }
    again.finish();
    return again.difference();
}

/// A run in which a party misses payloads for every reason there is.
void play_badly(const scratch& file) {
    ledger night("night");
    const recorder to_file(night, file.path());
    night.attach_everything();
    channel<Landed> landed("landed");
    courier::addressed_channel<Hailed> hails("hails");
    courier::outbox later("later");
    courier::subscriber horn("horn");
    courier::subscriber tides("tides");
    courier::subscriber bell("bell");
    courier::period storm("storm", {.running = false});
    bool forbid = false;
    constexpr courier::stage rules = courier::before(courier::ordinary, "rules");
    const auto land = [&](int barge) {
        landed.publish({.barge = barge});
        night.end_frame();
    };
    land(0); // frame 0: not there yet
    tides.subscribe(landed, [&] { return forbid ? courier::verdict::stop : courier::verdict::go_on; },
                    {.stage = rules});
    horn.subscribe(landed,
                   [](const Landed& e) {
                       if (e.barge == 6) {
                           throw std::runtime_error("wet");
                       }
                   },
                   {.condition = [](const Landed& e) { return e.barge != 3; }, .during = storm});
    bell.subscribe(landed | courier::filter([](const Landed& e) { return e.barge > 100; }), [] {});
    horn.subscribe(hails.at(1), [] {});
    landed.on_failure([](const courier::failure&) {});
    land(1); // frame 1: outside its period
    storm.begin();
    land(2); // frame 2: heard
    land(3); // frame 3: condition
    horn.pause();
    land(4); // frame 4: paused
    horn.resume();
    forbid = true;
    land(5); // frame 5: stopped
    forbid = false;
    land(6);                 // frame 6: throws
    hails.publish_to(2, {}); // frame 7: another address
    night.end_frame();
    later.post(landed, {.barge = 8}); // frame 8: waits for ever
    night.end_frame();
    horn.clear();
    land(9); // frame 9: has left
}

courier::why_not_answer horn_in(const run& of, const std::string& channel, std::uint32_t frame) {
    return why_not(of, {.channel = channel, .party = "horn", .first_frame = frame, .last_frame = frame});
}

} // namespace

TEST_CASE("what came from outside is fed in at the same frames, and everything follows") {
    const scratch file("game.jsonl");
    play(file, 12);
    CHECK(replay(file, 12) == std::nullopt);
    // Once more, recorded: the two recordings are the same.
    const scratch second("second.jsonl");
    play(second, 12);
    const courier::run_comparison result = compare(courier::read_run(file.path()), courier::read_run(second.path()));
    CHECK(result.equal());
    CHECK(result.same > 40);
}

TEST_CASE("the first difference of a replay is told, with both sides") {
    const scratch file("wrong.jsonl");
    play(file, 12);
    const std::optional<std::string> said = replay(file, 12, 5);
    REQUIRE(said.has_value());
    CHECK(test::contains(*said, "after "));
    CHECK(test::contains(*said, "\n  recorded: frame 6 "));
    CHECK(test::contains(*said, "\n  this run: frame 5 "));
    CHECK(test::contains(*said, R"({"barge":-1,"at":"none")"));
    CHECK(test::contains(*said, "\n  differs   payload: "));
    // A run that goes on for too short is different, too.
    CHECK(test::contains(*replay(file, 4), "this run: nothing"));
}

TEST_CASE("a recording that cannot be fed says why") {
    const scratch file("unfed.jsonl");
    play(file, 2);
    ledger night("night");
    courier::replay again(night, file.path());
    night.attach_everything();
    try {
        again.step();
        FAIL("nothing was thrown");
    } catch (const courier::recording_error& error) {
        CHECK(error.code() == courier::recording_code::cannot_replay);
        CHECK(test::contains(error.what(), "on 'pressed' came from outside, and nobody feeds that channel"));
    }
    courier::outbox later("later");
    courier::inbox arrivals(later);
    channel<test::Unnamed> other("hails");
    try {
        courier::replay fresh(night, file.path());
        fresh.feed("pressed", courier::inlet<test::Unnamed>(arrivals, other));
        fresh.step();
        FAIL("nothing was thrown");
    } catch (const courier::recording_error& error) {
        CHECK(test::contains(
            error.what(),
            "its payload's fields are not known; write WIRED_COURIER_FIELDS of courier/fields.hpp behind the struct"));
    }
}

TEST_CASE("what changes() calls harmless replays, and what it calls breaking does not") {
    // The recording is edited, as if it were of a program whose payloads were other ones.
    struct edit {
        std::string channel;
        std::string from;
        std::string to;
        std::string told; ///< by the replay; empty: it replays
    };
    const std::vector<edit> edits{
        {"hails", R"({"order":6})", R"({"order":6,"mate":"Bo"})", "/mate: is not a field of test::Hailed"},
        {"pressed", R"(,"note":"key")", "", "/note: is missing; it must be a text"},
        {"pressed", R"("barge":3)", R"("barge":"3")", "/barge: must be a whole number, but is a text"},
        {"pressed", R"("barge":3)", R"("barge":3000000000)",
         "/barge: must be a whole number, but is the number 3000000000"},
        {"pressed", R"("at":"none")", R"("at":"nome")",
         "/at: must be one of none, north, south, but is 'nome'; did you"},
        {"pressed", R"("barge":3,"at":"none",)", R"("barge":3,)", ""},  // added since, with a default
        {"landed", R"("at":"none","note":"",)", R"("at":"none",)", ""}, // published anew: the rest is the same
        {"landed", R"("at":"none","note":"",)", R"("at":"none","note":"","crew":4,)", "differs   payload: "},
    };
    const scratch file("changed.jsonl");
    play(file, 8);
    const std::string whole = file.text();
    for (const edit& one : edits) {
        CAPTURE(one.to);
        std::string text = whole;
        const std::size_t line = text.find(R"("subject":")" + one.channel, text.find(one.from) - 200);
        REQUIRE(text.find(one.from, line) != std::string::npos);
        text.replace(text.find(one.from, line), one.from.size(), one.to);
        file.write(text);
        std::string said;
        try {
            said = replay(file, 8).value_or("");
        } catch (const courier::recording_error& error) {
            said = error.what();
        }
        CHECK(said.empty() == one.told.empty());
        CHECK_MESSAGE(test::contains(said, one.told), said);
        const courier::value_shape shape =
            one.channel == "hails" ? courier::shape_of<Hailed>() : courier::shape_of<Landed>();
        const run recorded = courier::read_run(file.path());
        std::size_t misfits = 0;
        for (const courier::recorded_event& event : recorded.events) {
            if (recorded.channels[event.channel].name == one.channel) {
                misfits += check_json(recorded.payload_of(event), shape, courier::rules_of_replay(event)).size();
            }
        }
        CHECK((misfits == 0) == one.told.empty());
    }
}

TEST_CASE("why something did not come: every reason by name") {
    const scratch file("bad.jsonl");
    play_badly(file);
    const run read = courier::read_run(file.path());
    const auto only = [&](const std::string& channel, std::uint32_t frame) {
        const courier::why_not_answer found = horn_in(read, channel, frame);
        REQUIRE(found.reasons.size() == 1);
        CHECK(found.heard == 0);
        return found.reasons[0];
    };
    CHECK(only("landed", 0).why == unheard_reason::not_yet);
    CHECK(only("landed", 0).more == "it came in frame 1");
    CHECK(only("landed", 1).why == unheard_reason::outside_period);
    CHECK(only("landed", 3).why == unheard_reason::condition);
    CHECK(only("landed", 4).why == unheard_reason::paused);
    CHECK(only("landed", 4).more == "since frame 4 until frame 5");
    CHECK(only("landed", 5).why == unheard_reason::stopped);
    CHECK(only("landed", 5).more == "by tides");
    CHECK(only("landed", 6).why == unheard_reason::failed);
    CHECK(only("hails", 7).why == unheard_reason::other_address);
    CHECK(only("landed", 9).why == unheard_reason::no_longer);
    const courier::why_not_answer heard = horn_in(read, "landed", 2);
    CHECK(heard.heard == 1);
    CHECK(heard.reasons.empty());
    const courier::why_not_answer posted = horn_in(read, "landed", 8);
    REQUIRE(posted.reasons.size() == 1); // and not that nobody published
    CHECK(posted.reasons[0].why == unheard_reason::waits_in_outbox);
    CHECK(posted.published == 0);
    CHECK(posted.before == 6);
    CHECK(posted.after == 9);
    const courier::why_not_answer bell = why_not(read, {.channel = "landed", .party = "bell"});
    CHECK(bell.reasons[0].why == unheard_reason::filtered);
    CHECK(bell.reasons[0].events == 6);
    const courier::why_not_answer stranger = why_not(read, {.channel = "hails", .party = "lamp"});
    CHECK(stranger.reasons[0].why == unheard_reason::nobody_subscribed);
    CHECK(stranger.reasons[0].more == "these did: horn");
}
