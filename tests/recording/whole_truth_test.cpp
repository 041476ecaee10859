// What a recording tells at its end, wherever in the program its recorder stands.
#include "recording_scene.hpp"

#include <csignal>

using namespace recording_scene;

namespace {

enum class mode { menu, playing, paused };

struct Sea {
    int height = 0;
};
struct Tide {
    explicit Tide(Sea& sea) : sea_(sea) {}
    void update() { ++sea_.height; }
    Sea& sea_;
};

courier::sequence<> wait_for(courier::channel<Dawn>& dawn) {
    co_await courier::next(dawn);
}

enum class place { first, middle, last };
enum class ending { normal, exception, kill };

/// A game whose outbox, inbox and timetable nobody calls, and whose level ends before it does.
void play(const scratch& file, place where, ending how, courier::books& live, int frames = 70) {
    ledger night("night");
    std::optional<recorder> to_file;
    const auto record = [&](place here) {
        if (here == where) {
            to_file.emplace(night, file.path());
        }
    };
    night.attach_everything();
    record(place::first);
    try {
        channel<Landed> landed("landed");
        channel<Dawn> dawn("dawn");
        courier::accept_finding(
            {.code = courier::finding_code::every_frame, .channel = "landed", .reason = "each counts"});
        record(place::middle);
        courier::outbox left("left");
        courier::outbox hourly("hourly");
        courier::inbox arrivals(left, "arrivals");
        courier::timetable hours(hourly);
        courier::systems sea("sea");
        sea.get<Tide>();
        courier::phases<mode> now("mode", mode::menu, {{mode::menu, {mode::playing}}, {mode::playing, {mode::menu}}});
        courier::subscriber logbook("logbook");
        logbook.subscribe(landed, [] {});
        logbook.start(wait_for(dawn));
        const courier::inlet<Landed> in(arrivals, landed);
        left.post(landed, {.barge = 1});
        in.send({.barge = 2});
        hours.after(std::chrono::seconds(1), landed, {.barge = 3}).release();
        record(place::last);
        for (int i = 0; i < frames; ++i) {
            landed.publish({.barge = i});
            if (i % 20 == 19) {
                now.move_to(i % 40 == 19 ? mode::playing : mode::menu);
            }
            night.end_frame(std::chrono::milliseconds(16 * (i + 1)));
        }
        if (how == ending::kill) {
            to_file->flush();
            raise(SIGKILL);
        }
        if (where == place::last) {
            to_file.reset();
            live = night.read();
        }
        if (how == ending::exception) {
            throw std::runtime_error("the game is over");
        }
    } catch (const std::runtime_error&) {}
    if (where != place::last) {
        to_file.reset();
        live = night.read();
    }
}

std::string findings_of(const courier::books& of) {
    std::string all;
    const courier::audit_report report = courier::audit(of);
    for (const courier::finding& one : report.findings) {
        all += std::string(id_of(one.code)) + ": " + one.what + "\n";
    }
    for (const courier::acceptance_met& one : report.accepted) {
        all += "accepted " + std::string(id_of(one.found.code)) + ": " + one.reason + "\n";
    }
    return all;
}

} // namespace

TEST_CASE("what waits, systems, phases and findings are those of the ledger, wherever the recorder stands") {
    for (const place where : {place::first, place::middle, place::last}) {
        for (const ending how : {ending::normal, ending::exception}) {
            CAPTURE(static_cast<int>(where));
            CAPTURE(static_cast<int>(how));
            const scratch file("truth.jsonl");
            courier::books live;
            play(file, where, how, live);
            const run read = courier::read_run(file.path());
            CHECK(read.finished);
            CHECK(read.state_frame == 70);
            const courier::books recorded = books_of(read);
            CHECK(findings_of(live) == findings_of(recorded));
            REQUIRE(recorded.left_waiting.size() == 3);
            CHECK(live.left_waiting.size() == 3);
            CHECK(recorded.left_waiting[0].ended_frame.has_value() == (where != place::last));
            REQUIRE(recorded.systems.size() == 2);
            CHECK(recorded.systems[1].needs.size() == live.systems[1].needs.size());
            REQUIRE(recorded.phases.size() == 1);
            CHECK(recorded.phases[0].moves == 3);
            CHECK(recorded.phases[0].history.size() == 3);
            CHECK(recorded.phases[0].history[2].where == live.phases[0].history[2].where);
            CHECK(recorded.waiting.size() == 1);
            const std::string all = findings_of(recorded);
            CAPTURE(all);
            CHECK(test::contains(all, "accepted courier.audit.every-frame: each counts"));
            for (const char* const box : {"outbox 'left'", "inbox 'arrivals'", "a timetable"}) {
                CHECK(test::contains(all, box));
            }
            CHECK(test::contains(all, "waits-for-ever"));
        }
    }
}

TEST_CASE("after a kill, the recording tells up to which frame it knows") {
    const scratch file("killed.jsonl");
    const pid_t child = fork();
    if (child == 0) {
        courier::books nothing;
        play(file, place::first, ending::kill, nothing, 300);
        _exit(0);
    }
    int status = 0;
    waitpid(child, &status, 0);
    REQUIRE(WIFSIGNALED(status));
    const run read = courier::read_run(file.path());
    CHECK_FALSE(read.finished);
    CHECK(read.state_frame == 256);
    CHECK(read.frames() == 300);
    REQUIRE(read.phases.size() == 1);
    CHECK(read.phases[0].moves == 12); // of 15
}

TEST_CASE("an audit of nothing says so, and an acceptance that nothing meets does, too") {
    ledger night("night");
    CHECK(courier::audit(night.read()).count(courier::finding_code::nothing_seen) == 1);
    night.attach_everything();
    channel<Dawn> dawn("dawn");
    CHECK(courier::audit(night.read()).count(courier::finding_code::nothing_seen) == 1);
    dawn.publish();
    const courier::subscription heard = dawn.subscribe([] {});
    dawn.publish();
    CHECK(courier::audit(night.read()).clean());
    courier::accept_finding({.code = courier::finding_code::unheard, .channel = "dawn", .reason = "nobody is up"});
    const courier::audit_report report = courier::audit(night.read());
    REQUIRE(report.count(courier::finding_code::needless_accept) == 1);
    CHECK(test::contains(report.findings[0].what, "'courier.audit.unheard' is accepted on 'dawn'"));
    CHECK(courier::finding_code_named("every-frame") == courier::finding_code::every_frame);
    CHECK_FALSE(courier::finding_code_named("every-day"));
}
