#include "watch.hpp"

namespace reef {

watch::watch(int frames, night_log& log) : storm_at_(frames / 4), dawn_at_(frames - 1 - frames / 10), log_(log) {
    in_.subscribe(hours_.entered(hour::storm), [this] { log_.publish("watch", storm_broke_, {}); });
    in_.subscribe(hours_.entered(hour::dawn), [this] { log_.publish("watch", dawn_came_, {}); });
}

std::string_view watch::phase_at(int frame) const {
    return frame < storm_at_ ? "dusk" : frame < dawn_at_ ? "storm" : "dawn";
}

void watch::step(int frame, dice& chance) {
    phase_.set(phase_at(frame));
    if (frame == storm_at_) {
        hours_.move_to(hour::storm);
    }
    if (frame == dawn_at_) {
        hours_.move_to(hour::dawn);
    }
    if (phase_.glance() != "storm" && chance.one_in(15)) {
        log_.publish("weather", gulls_settled_, {});
    }
}

} // namespace reef
