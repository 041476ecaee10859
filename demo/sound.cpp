#include "sound.hpp"

#include <fmt/format.h>

namespace reef {

bell_ringer::bell_ringer(bell which, courier::wiring& wires, night_log& log)
    : name_(which == bell::south ? "south bell" : "north bell"), log_(log), in_(name_),
      called_(wires.target(name_, which)) {
    log_.expect(name_);
    wires.action<Ring>(in_, "bell.ring", which, [this](const Ring& r) {
        ring(r.strokes == 1 ? "rings once" : r.strokes == 2 ? "rings twice" : fmt::format("rings {} times", r.strokes));
    });
    wires.action<RingOut>(in_, "bell.ring_out", which, [this](const RingOut& r) { ring("rings " + r.what + " out"); });
}

void bell_ringer::ring(std::string_view how) {
    log_.heard(name_);
    log_.react(name_, how);
}

horn::horn(courier::wiring& wires, night_log& log) : log_(log) {
    log_.expect("horn");
    wires.action<Sound>(in_, "horn.sound",
                        [this](const Sound& s) { sound(s.how == blast::brief ? "sounds short" : "sounds long"); });
    wires.action<Answer>(in_, "horn.answer", [this](const Answer& a) { sound("answers " + a.whom); });
}

void horn::sound(std::string_view how) {
    log_.heard("horn");
    log_.react("horn", how);
}

} // namespace reef
