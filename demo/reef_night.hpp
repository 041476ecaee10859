// All systems of one night. They know channels; only this place knows them all.
#pragma once

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
#include <courier/level.hpp>
#include <courier/outbox.hpp>
#include <courier/systems.hpp>
#include <courier/timetable.hpp>
#include <courier/wiring/wiring.hpp>

#include <chrono>
#include <memory>
#include <optional>
#include <string>

namespace reef {

inline constexpr std::chrono::milliseconds frame_length{500}; // of game time

class reef_night {
public:
    reef_night(const night_options& options, night_log& log, const lightning_source* lightning = nullptr)
        : frames_(options.frames), log_(log), chance_(options.seed), hours_(options.frames, log),
          above_(options.seed, arrivals_, time_, later_, log, lightning),
          convoy_(options.barges, options.cables != 0 ? options.cables : options.frames / 2, reef_, log),
          out_there_(lending(log_, reef_, later_, time_, wires_, hours_, above_, convoy_).get<wyrms>()),
          harbour_((lending(reef_.query<DepthAsked>()).get<tables>(), all_->get<harbour>())),
          from_the_gallery_((all_->get<tides>(), all_->get<lookout>())), hands_(5, hours_, later_, log),
          lamp_room_("lamp room", reef_,
                     [this](courier::level& here) { here.make<lamp>(reef_, out_there_, wires_, log_); }),
          south_bell_(bell::south, wires_, log), fog_(all_->add<horn>("fog signals")),
          board_("watch board", convoy_, wires_, later_, log), ledger_keeper_(all_->get<orders>()),
          masts_(options.barges, convoy_, time_, log), signals_(wires_, log), chain_(wires_, log) {
        lending(hands_).get<keeper>();
        lamp_room_.begin();
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
        if (worst_ != nullptr) {
            worst_->step(frame);
        }
        frame_.run(frame_length);
        log_.end_frame();
    }

    /// Shows the values and events that a display of the night needs, and accepts its actions.
    template <class Gateway>
    void open(Gateway& out) {
        out.show(board_.moored());
        out.show(board_.crates());
        out.show(board_.lost());
        out.show(lamp_lit(reef_));
        out.show(hours_.phase());
        out.show(convoy_.moved());
        out.show(convoy_.moored());
        out.show(convoy_.bitten());
        out.show(out_there_.sighted());
        out.show(out_there_.driven_off());
        out.show(above_.flashed());
        out.show(above_.thundered());
        out.show(signals_.raised());
        out.accept_actions(wires_);
        out.accept_edits(wires_);
    }

    [[nodiscard]] barges& convoy() { return convoy_; }
    [[nodiscard]] std::string_view hour(int frame) const { return hours_.phase_at(frame); }
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
            lamp_room_.end();
        }
        if (frame == frames_ * 3 / 5) {
            log_.remark("the lamp is lit again");
            lamp_room_.begin(); // its wires have waited for it
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
    courier::level lamp_room_; ///< the lamp
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

} // namespace reef
