#include "lamp.hpp"

#include <fmt/format.h>

namespace reef {

lamp::lamp(courier::hub& reef, wyrms& out_there, courier::wiring& wires, night_log& log)
    : log_(log), lit_(lamp_lit(reef)) {
    log_.expect("lamp");
    lit_.set(true);
    wires.action<Sweep>(in_, "lamp.sweep", [this, &out_there](const Sweep& s) {
        log_.heard("lamp");
        log_.react("lamp", fmt::format("sweeps to {:03}", s.bearing));
        out_there.dazzle(s.wyrm);
    });
    wires.action<FallShort>(in_, "lamp.fall_short", [this](const FallShort& f) {
        log_.heard("lamp");
        log_.react("lamp", fmt::format("cannot reach {} cables", f.distance));
    });
    wires.announce("lamp.sweep", out_there.driven_off().name());
}

} // namespace reef
