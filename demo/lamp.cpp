#include "lamp.hpp"

#include <fmt/format.h>

namespace reef {

namespace {

constexpr int reach = 4; // cables

} // namespace

lamp::lamp(wyrms& out_there, night_log& log) : out_there_(out_there), log_(log) {
    log_.expect("lamp");
    in_.subscribe<&lamp::on_sighted>(out_there.sighted(), *this);
}

void lamp::on_sighted(const WyrmSighted& sighting) {
    log_.heard("lamp");
    if (sighting.distance > reach) {
        log_.react("lamp", fmt::format("cannot reach {} cables", sighting.distance));
        return;
    }
    log_.react("lamp", fmt::format("sweeps to {:03}", sighting.bearing));
    out_there_.dazzle(sighting.wyrm);
}

} // namespace reef
