#include "night.hpp"

#include "barges.hpp"
#include "careless.hpp"
#include "crew.hpp"
#include "dice.hpp"
#include "harbour.hpp"
#include "hoist.hpp"
#include "keeper.hpp"
#include "lamp.hpp"
#include "lookout.hpp"
#include "orders.hpp"
#include "posture.hpp"
#include "sound.hpp"
#include "stages.hpp"
#include "tables.hpp"
#include "tides.hpp"
#include "watch.hpp"
#include "watch_board.hpp"
#include "weather.hpp"
#include "wyrms.hpp"

#include <courier/frame_driver.hpp>
#include <courier/hub.hpp>
#include <courier/inbox.hpp>
#include <courier/ledger.hpp>
#include <courier/outbox.hpp>
#include <courier/recording/recorder.hpp>
#include <courier/recording/replay.hpp>
#include <courier/systems.hpp>
#include <courier/timetable.hpp>
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

constexpr std::chrono::milliseconds frame_length{500}; // of game time

// All systems of one night. They know channels; only this place knows them all.
class reef_night {
public:
    reef_night(const night_options& options, night_log& log, courier::replay* again = nullptr)
        : frames_(options.frames), log_(log), again_(again), chance_(options.seed), hours_(options.frames, log),
          above_(options.seed, arrivals_, time_, later_, log, again), convoy_(4, options.frames / 2, reef_, log),
          out_there_(lending(log_, reef_, later_, time_, wires_, hours_, above_, convoy_).get<wyrms>()),
          harbour_((lending(reef_.query<DepthAsked>()).get<tables>(), all_->get<harbour>())),
          from_the_gallery_((all_->get<tides>(), all_->get<lookout>())), hands_(5, hours_, later_, log),
          light_(all_->get<lamp>()), south_bell_(bell::south, wires_, log), fog_(all_->add<horn>("fog signals")),
          board_("watch board", convoy_, wires_, later_, log), ledger_keeper_(all_->get<orders>()),
          masts_(4, convoy_, time_, log), signals_(wires_, log), chain_(wires_, log) {
        lending(hands_).get<keeper>();
        offer_causes();
        options.wiring.empty() ? wires_.load_text("demo/reef.toml", shipped_wiring()) : wires_.load(options.wiring);
        frame_.take_in(arrivals_).advance(time_).update(*all_).deliver(later_);
        if (options.careless) {
            worst_ = std::make_unique<careless>(convoy_, out_there_, reef_, later_);
        }
    }

    reef_night(const reef_night&) = delete;
    reef_night& operator=(const reef_night&) = delete;
    ~reef_night() { all_.reset(); } // before what was lent to them

    void step(int frame) {
        log_.begin_frame(frame, hours_.phase_at(frame));
        if (frame == 0) {
            convoy_.launch();
        }
        change_crew(frame);
        hours_.step(frame, chance_);
        out_there_.step(frame, hours_.phase_at(frame) == "storm", chance_);
        convoy_.step(frame, chance_);
        hands_.step(chance_);
        above_.step(hours_.phase_at(frame) == "storm");
        if (again_ != nullptr) {
            again_->step();
        }
        if (worst_ != nullptr) {
            worst_->step(frame);
        }
        frame_.run(frame_length);
        log_.end_frame();
    }

    [[nodiscard]] const courier::wiring& wires() const { return wires_; }
    [[nodiscard]] std::string board() const { return board_.text(); }
    [[nodiscard]] std::size_t orders_open() const { return ledger_keeper_.open(); }

private:
    /// The systems, with more that they may need.
    template <class... Lent>
    courier::systems& lending(Lent&... more) {
        (all_->lend(more), ...);
        return *all_;
    }

    void offer_causes() {
        const auto offer = [this](const auto&... causes) { (wires_.offer(causes), ...); };
        offer(hours_.storm_broke(), hours_.dawn_came(), hours_.gulls_settled(), hours_.phase(), above_.flashed(),
              above_.thundered(), convoy_.move_asked(), convoy_.moved(), convoy_.moored(), convoy_.bitten(),
              out_there_.sighted(), out_there_.driven_off(), from_the_gallery_.danger(), hands_.all_ready(),
              ledger_keeper_.filled(), hours_.hours(), rules, presentation, reef_.query<DepthAsked>());
        wires_.use(time_);
    }

    // Listeners come and go in mid-night; nothing else has to know.
    void change_crew(int frame) {
        if (frame == frames_ / 8) {
            hands_.order("coil down the lines");
        }
        if (frame == frames_ / 4 + 3) {
            hands_.lose_one();
        }
        if (frame == frames_ * 9 / 20) {
            harbour_.hail_the_overdue();
        }
        if (frame == frames_ * 2 / 5) {
            log_.remark("the lamp goes out");
            light_.put_out();
        }
        if (frame == frames_ * 3 / 5) {
            log_.remark("the lamp is lit again");
            light_.light();
        }
        if (frame == frames_ / 2) {
            log_.remark("a second bell is manned on the north pier");
            north_bell_ = std::make_unique<bell_ringer>(bell::north, wires_, log_);
        }
        if (frame == frames_ * 7 / 10) {
            log_.remark("the horn is carried off by a wave");
            fog_.end();
        }
    }

    int frames_;
    night_log& log_;
    courier::replay* again_;
    dice chance_;
    courier::hub reef_{"reef"};
    courier::outbox later_{"end of frame"};
    courier::inbox arrivals_{later_, "arrivals"};
    courier::timetable time_{later_};
    courier::frame_driver frame_;
    courier::wiring wires_{"reef"};
    std::optional<courier::systems> all_{std::in_place, "reef"};
    watch hours_;
    weather above_;
    barges convoy_;
    wyrms& out_there_;
    harbour& harbour_;
    lookout& from_the_gallery_;
    crew hands_;
    lamp& light_;
    bell_ringer south_bell_;
    std::unique_ptr<bell_ringer> north_bell_;
    courier::team fog_; ///< the horn
    watch_board board_;
    orders& ledger_keeper_;
    posture masts_;
    hoist signals_;
    boom chain_;
    std::unique_ptr<careless> worst_;
};

} // namespace

namespace {

constexpr const char* ledger_name = "gannet reef";

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
    courier::ledger overseer(ledger_name, {.shake = options.shake});
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
    courier::ledger overseer(ledger_name, {.shake = options.shake});
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
