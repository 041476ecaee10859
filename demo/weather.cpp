#include "weather.hpp"

#include "stages.hpp"

#include <fmt/format.h>

#include <chrono>

namespace reef {

namespace {

using namespace std::chrono_literals;

constexpr auto per_cable = 540ms; // that sound takes

} // namespace

weather::weather(std::uint64_t seed, courier::inbox& arrivals, courier::timetable& hours, courier::outbox& later,
                 night_log& log, const lightning_source* lightning)
    : lightning_(lightning), thunder_(later, thundered_) {
    in_.subscribe(flashed_,
                  [this, &hours, &log](const Flashed& e) {
                      log.announce("weather", flashed_.name(), e);
                      hours.after(e.distance * per_cable, thunder_, {.distance = e.distance}).release();
                  },
                  {.stage = rules});
    in_.subscribe(thundered_, [this, &log](const Thundered& e) { log.announce("weather", thundered_.name(), e); },
                  {.stage = rules});
    const courier::inlet<Flashed> out{arrivals, flashed_};
    if (lightning_ != nullptr) {
        lightning_->feed(flashed_.name(), out);
        return;
    }
    worker_ = std::thread([this, chance = dice(seed + 1), out] { work(chance, out); });
}

weather::~weather() {
    if (lightning_ == nullptr) {
        over_ = true;
        go_.release();
        worker_.join();
    }
}

void weather::step(bool storm) {
    if (lightning_ != nullptr) {
        lightning_->step();
        return;
    }
    storm_ = storm;
    go_.release();
    done_.acquire();
}

void weather::work(dice chance, const courier::inlet<Flashed>& out) {
    for (;;) {
        go_.acquire();
        if (over_) {
            return;
        }
        if (storm_ && chance.one_in(12)) {
            out.send({.distance = chance.between(2, 30)});
        }
        done_.release();
    }
}

} // namespace reef
