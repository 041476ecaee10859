// All that a ledger tells, live.
#include "support.hpp"

#include <courier/recording/explanation.hpp>
#include <courier/recording/run_builder.hpp>

using namespace test;
using courier::gateway;

namespace {

courier::run run_of(const std::vector<message>& all) {
    courier::run made;
    courier::run_builder by(made, "live", {.joined_late = true});
    for (const message& one : all) {
        by.line(one.data.dump());
    }
    by.done();
    return made;
}

} // namespace

TEST_CASE("the run is sent as the lines of a recording, from which the ledger's story can be told") {
    harbour reef;
    courier::ledger night{"gannet reef's ledger"};
    night.attach_everything();
    gateway out;
    out.show(night);
    courier::publisher<Hailed> keeper{reef.hailed, "keeper"};
    reef.in.subscribe(reef.landed,
                      [&](const Landed& l) { keeper.publish({.by = "barge " + std::to_string(l.barge)}); });
    std::vector<message> all;
    std::atomic<bool> reads{false};
    int sent = 0;
    const bool in_time = frames_during(
        [&] {
            if (reads && sent < 5) {
                reef.landed.publish({.barge = ++sent, .crates = 2});
            }
            night.end_frame();
            out.take_in();
        },
        [&] {
            all = read_stream(out, "/run", "", [&](const auto& some) {
                reads = true;
                return some.back().subject() == "harbour.landed" && some.back().type() == "wired-courier.event" &&
                       some.back().at("/data/payload/barge") == 5;
            });
        });
    REQUIRE(in_time);
    const courier::run told = run_of(all);
    const courier::recorded_event* hailed = nullptr;
    for (const courier::recorded_event& one : told.events) {
        hailed = told.channels[one.channel].name == "harbour.hailed" ? &one : hailed;
    }
    REQUIRE(hailed != nullptr);
    const auto chain = courier::chain_of(told, *hailed);
    REQUIRE(chain.size() == 2);
    CHECK(told.channels[chain[0]->channel].name == "harbour.landed");
    CHECK(told.payload_of(*hailed) == R"({"by":"barge 5","how":"brief"})");
    CHECK(told.source == "gannet reef's ledger");
}

TEST_CASE("one who comes late knows the channels and the live subscriptions, and those that ended are gone") {
    harbour reef;
    courier::ledger night{"ledger of a night"};
    night.attach_everything();
    gateway out{{.max_remembered = 3000}};
    out.show(night);
    courier::subscriber lamp{"lamp"};
    lamp.subscribe(reef.landed, [] {});
    {
        courier::subscriber gone{"gone"};
        gone.subscribe(reef.landed, [] {});
    }
    lamp.pause();
    for (int i = 0; i < 300; ++i) {
        reef.landed.publish({.barge = i, .crates = 1});
        night.end_frame();
        out.take_in();
    }
    std::vector<message> all;
    frames_during([&] { out.take_in(); },
                  [&] {
                      std::this_thread::sleep_for(std::chrono::milliseconds(50));
                      all = read_stream(out, "/run", "", [](const auto& some) {
                          return some.back().type() == "wired-courier.event" &&
                                 some.back().at("/data/payload/barge") == 299;
                      });
                  });
    REQUIRE(!all.empty());
    CHECK(all[0].type() == "wired-courier.recording");
    bool has_channel = false;
    bool is_paused = false;
    std::vector<std::string> live;
    for (const message& one : all) {
        has_channel = has_channel || (one.type() == "wired-courier.channel" && one.subject() == "harbour.landed");
        is_paused = is_paused || one.type() == "wired-courier.paused";
        if (one.type() == "wired-courier.subscribed" && one.subject() == "harbour.landed") {
            live.push_back(one.data["data"]["name"]);
        }
    }
    CHECK(has_channel);
    CHECK(is_paused);
    CHECK(live == std::vector<std::string>{"lamp"});
}

TEST_CASE("findings are those of the audit, and either the ledger or the gateway may end first") {
    harbour reef;
    auto night = std::make_unique<courier::ledger>("ledger of a night");
    night->attach_everything();
    gateway out;
    out.show(*night);
    for (int i = 0; i < 3; ++i) {
        reef.landed.publish({});
    }
    answer found;
    frames_during([&] { out.take_in(); }, [&] { found = get(out, "/findings"); });
    REQUIRE(found.body.contains("findings"));
    bool is_unheard = false;
    for (const auto& one : found.body["findings"]) {
        is_unheard = is_unheard || (one["code"] == "courier.audit.unheard" && one["channel"] == "harbour.landed");
    }
    CHECK(is_unheard);
    night.reset();
    std::vector<message> all;
    answer after;
    frames_during([&] { out.take_in(); },
                  [&] {
                      all = read_stream(out, "/run", "", [](const auto& some) {
                          return some.back().type() == "wired-courier.finished";
                      });
                      std::this_thread::sleep_for(std::chrono::milliseconds(1100));
                      after = get(out, "/findings");
                  });
    CHECK(all.back().type() == "wired-courier.finished");
    REQUIRE(after.body["findings"].size() == 1); // whose ledger is gone
    CHECK(after.body["findings"][0]["code"] == "courier.audit.nothing-seen");
}

TEST_CASE("without a ledger there is no run to read") {
    const gateway out;
    CHECK(get(out, "/run").status == 404);
    CHECK(get(out, "/about").body["run"] == false);
}
