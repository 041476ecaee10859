#include "night.hpp"

#include "barges.hpp"
#include "crew.hpp"
#include "dice.hpp"
#include "harbour.hpp"
#include "keeper.hpp"
#include "lamp.hpp"
#include "lookout.hpp"
#include "orders.hpp"
#include "posture.hpp"
#include "sound.hpp"
#include "tables.hpp"
#include "tides.hpp"
#include "watch.hpp"
#include "watch_board.hpp"
#include "weather.hpp"
#include "wyrms.hpp"

#include <courier/frame_driver.hpp>
#include <courier/hub.hpp>
#include <courier/inbox.hpp>
#include <courier/outbox.hpp>
#include <courier/timetable.hpp>

#include <chrono>
#include <memory>
#include <utility>

namespace reef {

namespace {

constexpr std::chrono::milliseconds frame_length{500}; // of game time

// All systems of one night. They know channels; only this place knows them all.
class reef_night {
public:
    reef_night(const night_options& options, night_log& log)
        : frames_(options.frames), log_(log), chance_(options.seed), hours_(options.frames, log),
          above_(options.seed, arrivals_, time_, later_, log), convoy_(4, options.frames / 2, reef_, log),
          out_there_(convoy_, later_, log), tables_(reef_.query<DepthAsked>()), harbour_(convoy_, hours_, reef_, log),
          tides_(convoy_, reef_.query<DepthAsked>(), log), from_the_gallery_(above_, out_there_),
          hands_(5, hours_, later_, log), light_(out_there_, log),
          south_bell_("south bell", convoy_, out_there_, hours_, log),
          fog_(std::make_unique<horn>(convoy_, hours_, above_, log)),
          board_("watch board", convoy_, from_the_gallery_, later_, log), ledger_keeper_(convoy_, log),
          masts_(4, convoy_, time_, log), keeper_(convoy_, hours_, hands_, out_there_, time_, log) {
        frame_.take_in(arrivals_).advance(time_).deliver(later_);
    }

    void step(int frame) {
        log_.begin_frame(frame, hours_.phase_at(frame));
        if (frame == 0) {
            convoy_.launch();
        }
        change_crew(frame);
        hours_.step(frame, chance_);
        tides_.step(frame);
        out_there_.step(frame, hours_.phase_at(frame) == "storm", chance_);
        convoy_.step(frame, chance_);
        hands_.step(chance_);
        above_.step(hours_.phase_at(frame) == "storm");
        sum_up(frame_.run(frame_length));
        log_.end_frame();
    }

    [[nodiscard]] std::string board() const { return board_.text(); }
    [[nodiscard]] std::size_t orders_open() const { return ledger_keeper_.open(); }

private:
    void sum_up(const courier::frame_report& report) {
        for (const courier::frame_line& line : report.channels) {
            if (line.channel == convoy_.bitten().name()) {
                log_.delivered(line.channel, line.delivered, convoy_.bitten().size());
            } else if (line.channel == above_.flashed().name()) {
                log_.delivered(line.channel, line.delivered, above_.flashed().size() - 1); // not to itself
            } else if (line.channel == above_.thundered().name()) {
                log_.delivered(line.channel, line.delivered, above_.thundered().size() - 1);
            }
        }
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
            north_bell_ = std::make_unique<bell>("north bell", convoy_, out_there_, hours_, log_);
        }
        if (frame == frames_ * 7 / 10) {
            log_.remark("the horn is carried off by a wave");
            fog_.reset();
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
    watch hours_;
    weather above_;
    barges convoy_;
    wyrms out_there_;
    tables tables_;
    harbour harbour_;
    tides tides_;
    lookout from_the_gallery_;
    crew hands_;
    lamp light_;
    bell south_bell_;
    std::unique_ptr<bell> north_bell_;
    std::unique_ptr<horn> fog_;
    watch_board board_;
    orders ledger_keeper_;
    posture masts_;
    keeper keeper_;
};

} // namespace

night_result run_night(const night_options& options, const night_log::line_sink& sink) {
    night_log log(sink);
    reef_night night(options, log);
    for (int frame = 0; frame < options.frames; ++frame) {
        night.step(frame);
    }
    return {.channels = log.sums(),
            .heard_nothing = log.heard_nothing(),
            .board = night.board(),
            .orders_open = night.orders_open()};
}

} // namespace reef
