// Several who record one ledger at a time.
#include "support.hpp"

#include <courier/recording/explanation.hpp>
#include <courier/recording/read_run.hpp>

using courier::channel;
using courier::ledger;
using courier::recorder;
using courier::run;
using test::Hailed;
using test::scratch;

namespace {

std::string contents_of(const std::string& path) {
    std::ifstream file(path);
    return {std::istreambuf_iterator<char>(file), {}};
}

std::vector<std::string> channels_of(const run& of) {
    std::vector<std::string> names;
    for (const courier::recorded_event& e : of.events) {
        names.push_back(of.channels[e.channel].name);
    }
    return names;
}

} // namespace

TEST_CASE("any number of recorders record one ledger, each all of it") {
    const scratch first("takers_1.jsonl");
    const scratch second("takers_2.jsonl");
    {
        ledger night("night");
        const recorder one(night, first.path());
        const recorder other(night, second.path());
        night.attach_everything();
        channel<Hailed> hailed("hailed");
        channel<Hailed> answered("answered");
        courier::subscriber barge("barge");
        barge.subscribe(hailed, [&](const Hailed& e) { answered.publish(e); });
        for (int i = 0; i < 100; ++i) {
            hailed.publish({.order = i});
            night.end_frame();
        }
        CHECK(one.recorded() == 200);
        CHECK(other.recorded() == 200);
    }
    CHECK(contents_of(first.path()) == contents_of(second.path()));
    CHECK(courier::read_run(first.path()).events.size() == 200);
}

TEST_CASE("each recorder has its own choice of channels") {
    const scratch all_of_it("takers_3.jsonl");
    const scratch some_of_it("takers_4.jsonl");
    {
        ledger night("night");
        int asked = 0;
        const recorder all(night, all_of_it.path());
        const recorder some(night, some_of_it.path(), {.only = [&asked](std::string_view name) {
                                ++asked;
                                return name != "answered";
                            }});
        night.attach_everything();
        channel<Hailed> hailed("hailed");
        channel<Hailed> answered("answered");
        channel<Hailed> logged("logged");
        courier::subscriber barge("barge");
        courier::subscriber log("log");
        barge.subscribe(hailed, [&](const Hailed& e) { answered.publish(e); });
        log.subscribe(answered, [&](const Hailed& e) { logged.publish(e); });
        courier::outbox later("later");
        const courier::poster<Hailed> answer(later, answered);
        hailed.publish({.order = 1});
        answer.post({.order = 2});
        later.deliver();
        CHECK(asked == 3);
        CHECK(all.recorded() == 6); // with the post
        CHECK(some.recorded() == 3);
    }
    const run whole = courier::read_run(all_of_it.path());
    const run part = courier::read_run(some_of_it.path());
    CHECK(channels_of(whole) ==
          std::vector<std::string>{"hailed", "answered", "logged", "answered", "answered", "logged"});
    CHECK(channels_of(part) == std::vector<std::string>{"hailed", "logged", "logged"});
    CHECK(part.channels.size() == 2);
    for (const auto& [number, subscription] : part.subscriptions) {
        CHECK(part.channels[subscription.channel].name == "hailed");
    }
    // What was caused by what was left out begins its chain there.
    CHECK(chain_of(part, part.events[1]).size() == 1);
    CHECK(chain_of(whole, whole.events[2]).size() == 3);
}

TEST_CASE("who leaves in the middle of a publish, or comes then, takes nothing from the others") {
    const scratch stays("takers_5.jsonl");
    const scratch leaves("takers_6.jsonl");
    const scratch comes("takers_7.jsonl");
    {
        ledger night("night");
        std::optional<recorder> leaver(std::in_place, night, leaves.path());
        const recorder stayer(night, stays.path());
        std::optional<recorder> newcomer;
        night.attach_everything();
        channel<Hailed> hailed("hailed");
        courier::subscriber barge("barge");
        barge.subscribe(hailed, [&](const Hailed& e) {
            if (e.order == 1) {
                hailed.publish({.order = 2});
                leaver.reset();
                newcomer.emplace(night, comes.path());
                hailed.publish({.order = 3});
            }
        });
        hailed.publish({.order = 1});
        hailed.publish({.order = 4});
    }
    const auto orders = [](const scratch& file) {
        const run read = courier::read_run(file.path());
        CHECK(read.finished);
        std::string all;
        for (const courier::recorded_event& e : read.events) {
            all += read.payload_of(e);
        }
        return all;
    };
    CHECK(orders(stays) == R"({"order":1}{"order":2}{"order":3}{"order":4})");
    CHECK(orders(leaves) == R"({"order":2})"); // the one that it began in is not over
    CHECK(orders(comes) == R"({"order":3}{"order":4})");
}
