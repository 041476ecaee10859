#include "lighthouse.hpp"

#include "passage.hpp"
#include "reef_night.hpp"

#include <courier/ferry/ferry.hpp>
#include <courier/ferry/remote_query.hpp>
#include <courier/ledger.hpp>
#include <courier/recording/recorder.hpp>

#include <fmt/format.h>

#include <chrono>
#include <optional>
#include <thread>

namespace reef {

namespace {

constexpr int night_frames = 400;
constexpr int reef_cables = 24; ///< from one reef's roads to its berths

std::string reef_name(int number, int of) {
    return number > of ? "office" : fmt::format("reef-{}", number);
}

night_options night_of(const reefs_options& options, int number, bool returns) {
    night_options night;
    night.seed = options.seed * 100 + static_cast<std::uint64_t>(number);
    night.frames = night_frames;
    night.barges = returns ? 0 : options.barges;
    night.cables = reef_cables;
    return night;
}

} // namespace

void run_lighthouse(const reefs_options& options, int number, bool returns, const std::atomic<bool>& over) {
    const std::string name = reef_name(number, options.reefs);
    const night_options settings = night_of(options, number, returns);
    courier::ledger overseer(name);
    courier::ferry boat({.process = name,
                         .port = options.port,
                         .processes_topic = "gannet/processes",
                         .absence = std::chrono::seconds(1)});
    std::optional<courier::recorder> to_file;
    if (!options.record.empty()) {
        to_file.emplace(overseer, options.record, courier::recorder_options{.facts = {{"program", "courier demo"}}});
    }
    overseer.attach_everything();
    night_log log([](const log_line&) {});
    reef_night night(settings, log);
    passage way(name, reef_name(number + 1, options.reefs), night.convoy(), log);

    // All that is ever said of other processes; no system knows of them.
    boat.send(way.sails(), "gannet/barges/+", {.guarantee = courier::guarantee::exactly_once});
    boat.send(way.board(), "gannet/reef/" + name + "/board",
              {.encoding = courier::encoding::cbor, .kept_by_broker = true});
    boat.receive(way.expected(), "gannet/barges/" + name, {.guarantee = courier::guarantee::exactly_once});
    courier::remote_query<WaterAsked> water(boat, "gannet/office/water", std::chrono::milliseconds(500));
    courier::subscriber in("lighthouse");
    in.subscribe(water.answered(),
                 [&](const courier::remote_answer<Water>& a) { way.note(a.answer.value_or(Water{})); });

    const auto step = std::chrono::nanoseconds(std::chrono::seconds(1)) / options.pace;
    auto next = std::chrono::steady_clock::now();
    for (int frame = 0; !over; ++frame) {
        if (frame < night_frames) {
            night.step(frame);
        }
        way.step(frame < night_frames ? night.hour(frame) : "dawn");
        if (frame % 50 == 20) {
            water.ask({.hour = frame / 50});
        }
        boat.take_in();
        std::this_thread::sleep_until(next += step);
    }
}

} // namespace reef
