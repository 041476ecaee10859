#include "sound.hpp"

#include "stages.hpp"

#include <utility>

namespace reef {

bell::bell(std::string name, const barges& convoy, const wyrms& out_there, const watch& hours, night_log& log)
    : name_(std::move(name)), in_(name_) {
    in_.subscribe(out_there.sighted(), [this, &log] { log.react(name_, "rings twice"); }, {.stage = presentation});
    in_.subscribe(convoy.moored(), [this, &log] { log.react(name_, "rings once"); }, {.stage = presentation});
    in_.subscribe(hours.dawn_came(), [this, &log] { log.react(name_, "rings the night out"); },
                  {.stage = presentation, .times = 1});
}

horn::horn(const barges& convoy, const watch& hours, night_log& log) {
    in_.subscribe(convoy.bitten(), [&log] { log.react("horn", "sounds short"); }, {.stage = presentation});
    in_.subscribe(hours.storm_broke(), [&log] { log.react("horn", "sounds long"); }, {.stage = presentation});
}

} // namespace reef
