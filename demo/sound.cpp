#include "sound.hpp"

#include "stages.hpp"

#include <chrono>
#include <utility>

namespace reef {

namespace {

constexpr std::chrono::seconds a_moment{1}; // of game time

} // namespace

bell::bell(std::string name, const barges& convoy, const wyrms& out_there, const watch& hours, courier::timetable& time,
           night_log& log)
    : name_(std::move(name)), log_(log), in_(name_) {
    log_.expect(name_);
    in_.subscribe(out_there.sighted(), [this] { ring("rings twice"); }, {.stage = presentation});
    in_.subscribe(convoy.moored(), [this] { ring("rings once"); }, {.stage = presentation});
    in_.once(hours.dawn_came(), [this, &time] { in_.after(time, a_moment, [this] { ring("rings the night out"); }); },
             {.stage = presentation});
}

void bell::ring(std::string_view how) {
    log_.heard(name_);
    log_.react(name_, how);
}

horn::horn(const barges& convoy, const watch& hours, const weather& above, night_log& log) : log_(log) {
    log_.expect("horn");
    in_.subscribe(convoy.bitten(), [this] { sound("sounds short"); }, {.stage = presentation});
    in_.subscribe(hours.storm_broke(), [this] { sound("sounds long"); }, {.stage = presentation});
    in_.subscribe(above.thundered(), [this] { sound("answers the thunder"); }, {.stage = presentation});
}

void horn::sound(std::string_view how) {
    log_.heard("horn");
    log_.react("horn", how);
}

} // namespace reef
