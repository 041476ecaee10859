#include "night.hpp"

#include "reef_night.hpp"

#include <courier/ledger.hpp>
#include <courier/recording/recorder.hpp>
#include <courier/recording/replay.hpp>
#include <courier/wiring/wiring.hpp>

#include <charconv>
#include <chrono>
#include <map>
#include <memory>
#include <optional>
#include <string>
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

std::vector<channel_sums> sums_of(const courier::books& all) {
    std::vector<channel_sums> sums;
    for (const courier::channel_books& c : all.channels) {
        if (c.published != 0) {
            sums.push_back(
                {c.name, c.published, c.deliveries, c.unheard, c.stopped, c.payload.starts_with("courier::")});
        }
    }
    return sums;
}

night_options options_of(const courier::run& recorded) {
    const auto program = recorded.facts.find("program");
    const std::uint64_t frames = number_in(recorded, "frames");
    if (program == recorded.facts.end() || program->second != "courier demo" || frames == 0) {
        throw courier::recording_error(courier::recording_fault::cannot_replay,
                                       recorded.file +
                                           ": this is no recording of 'courier demo', so its program has to "
                                           "replay it; give it with --with "
                                           "[courier.recording.cannot-replay]");
    }
    return {.seed = number_in(recorded, "seed"),
            .frames = static_cast<int>(frames),
            .careless = recorded.facts.contains("careless"),
            .shake = number_in(recorded, "shake"),
            .record = {},
            .wiring = recorded.facts.contains("wiring") ? recorded.facts.at("wiring") : std::string()};
}

} // namespace

replayed_night replay_night(const std::string& file) {
    courier::run recorded = courier::read_run(file);
    const night_options options = options_of(recorded);
    replayed_night result;
    for (const courier::recorded_event& e : recorded.events) {
        result.of += e.id != 0 ? 1U : 0U;
    }
    courier::ledger overseer("gannet reef", {.shake = options.shake});
    courier::replay again(overseer, std::move(recorded));
    overseer.attach_everything();
    night_log log([](const log_line&) {});
    reef_night night(options, log, &again);
    for (int frame = 0; frame < options.frames && !again.over(); ++frame) {
        night.step(frame);
    }
    again.finish();
    result.events = again.same();
    result.difference = again.difference();
    return result;
}

courier::catalogue night_catalogue() {
    night_log log([](const log_line&) {});
    const reef_night night(night_options{}, log);
    courier::catalogue all = night.wires().list();
    all.targets.push_back({"north bell", "bell"}); // it comes in mid-night
    return all;
}

night_result run_night(const night_options& options, const night_log::line_sink& sink) {
    courier::ledger overseer("gannet reef", {.shake = options.shake});
    std::optional<courier::recorder> to_file;
    if (!options.record.empty()) {
        to_file.emplace(overseer, options.record, courier::recorder_options{.facts = facts_of(options)});
    }
    overseer.attach_everything();
    night_log log(sink);
    reef_night night(options, log);
    for (int frame = 0; frame < options.frames; ++frame) {
        night.step(frame);
    }
    if (to_file) {
        to_file->flush();
        if (const std::string why = to_file->failure(); !why.empty()) {
            throw courier::recording_error(courier::recording_fault::cannot_open,
                                           "cannot write " + options.record + ": " + why);
        }
        to_file.reset(); // before the systems end
    }
    return {.channels = sums_of(overseer.read()),
            .heard_nothing = log.heard_nothing(),
            .wires = night.wires().wires(),
            .board = night.board(),
            .orders_open = night.orders_open()};
}

} // namespace reef
