#include "recorded_night.hpp"

#include "reef_night.hpp"

#include <courier/ledger.hpp>
#include <courier/recording/narrator.hpp>
#include <courier/recording/read_run.hpp>
#include <courier/recording/recorder.hpp>
#include <courier/recording/replay.hpp>

#include <charconv>
#include <map>
#include <optional>
#include <string>
#include <string_view>
#include <utility>

namespace reef {

namespace {

std::map<std::string, std::string> facts_of(const night_options& options) {
    std::map<std::string, std::string> facts{{"program", "courier demo"},
                                             {"seed", std::to_string(options.seed)},
                                             {"frames", std::to_string(options.frames)}};
    if (options.careless) {
        facts.emplace("careless", "yes");
    }
    if (!options.wiring.empty()) {
        facts.emplace("wiring", options.wiring);
    }
    return facts;
}

std::uint64_t number_in(const courier::run& recorded, const std::string& fact) {
    const auto found = recorded.facts.find(fact);
    std::uint64_t number = 0;
    if (found != recorded.facts.end()) {
        std::from_chars(found->second.data(), found->second.data() + found->second.size(), number);
    }
    return number;
}

night_options options_of(const courier::run& recorded) {
    const auto program = recorded.facts.find("program");
    const std::uint64_t frames = number_in(recorded, "frames");
    if (program == recorded.facts.end() || program->second != "courier demo" || frames == 0) {
        throw courier::recording_error(courier::recording_code::cannot_replay,
                                       "not a recording of 'courier demo', so its own program has to replay it",
                                       recorded.file, "give that program with --with");
    }
    return {.seed = number_in(recorded, "seed"),
            .frames = static_cast<int>(frames),
            .careless = recorded.facts.contains("careless"),
            .order_seed = number_in(recorded, "order_seed"),
            .wiring = recorded.facts.contains("wiring") ? recorded.facts.at("wiring") : std::string()};
}

} // namespace

night_result record_night(const night_options& options, const std::string& file, const night_log::line_sink& sink) {
    std::optional<courier::recorder> to_file;
    return run_night(options, sink,
                     {.begin =
                          [&](courier::ledger& overseer) {
                              to_file.emplace(overseer, file, courier::recorder_options{.facts = facts_of(options)});
                          },
                      .end =
                          [&] {
                              to_file->flush();
                              if (const std::string why = to_file->failure(); !why.empty()) {
                                  throw courier::recording_error(courier::recording_code::cannot_open,
                                                                 "cannot be written: " + why, file,
                                                                 "make room, or name another file");
                              }
                              to_file.reset();
                          }});
}

night_result narrate_night(const night_options& options, const std::string& channels,
                           const std::function<void(std::string_view line)>& sink) {
    std::optional<courier::narrator> narrator;
    const auto is_told = [&](std::string_view channel) { return channel.starts_with(channels); };
    return run_night(
        options, [](const log_line&) {},
        {.begin =
             [&](courier::ledger& overseer) { narrator.emplace(overseer, courier::narrator_options{is_told}, sink); },
         .end = [&] { narrator.reset(); }});
}

replayed_night replay_night(const std::string& file) {
    courier::run recorded = courier::read_run(file);
    const night_options options = options_of(recorded);
    replayed_night result;
    for (const courier::recorded_event& e : recorded.events) {
        result.of += e.id != 0 ? 1U : 0U;
    }
    courier::ledger overseer("gannet reef", {.order_seed = options.order_seed});
    courier::replay again(overseer, std::move(recorded));
    overseer.attach_everything();
    night_log log([](const log_line&) {});
    const lightning_source lightning{
        .feed = [&again](std::string_view channel, const courier::inlet<Flashed>& into) { again.feed(channel, into); },
        .step = [&again] { again.step(); }};
    reef_night night(options, log, &lightning);
    for (int frame = 0; frame < options.frames && !again.over(); ++frame) {
        night.step(frame);
    }
    again.finish();
    result.events = again.same();
    result.difference = again.difference();
    return result;
}

} // namespace reef
