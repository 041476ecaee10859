#include "watch.hpp"

namespace reef {

std::string_view watch::phase_at(int frame) const {
    return frame < storm_at_ ? "dusk" : frame < dawn_at_ ? "storm" : "dawn";
}

void watch::step(int frame, dice& chance) {
    phase_.set(phase_at(frame));
    if (frame == storm_at_) {
        storm_watch_.begin();
        log_.publish("watch", storm_broke_, {});
    }
    if (frame == dawn_at_) {
        storm_watch_.end();
        log_.publish("watch", dawn_came_, {});
    }
    if (phase_.glance() != "storm" && chance.one_in(15)) {
        log_.publish("weather", gulls_settled_, {});
    }
}

} // namespace reef
