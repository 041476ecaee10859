#include "hoist.hpp"

#include <courier/data/in_words.hpp>

namespace reef {

hoist::hoist(courier::wiring& wires, night_log& log) {
    wires.offer(raised_);
    wires.announce("hoist.raise", raised_.name());
    wires.action<Raise>(in_, "hoist.raise", [this, &log](const Raise& r) {
        signal_ += (up_ == 0 ? "" : " ") + courier::in_words(r.shown);
        log.publish("hoist", raised_, {.shown = r.shown, .up = ++up_});
    });
    wires.action<Read>(in_, "hoist.read", [this](const Read& r) -> courier::outcome<> {
        if (signal_ != r.as) {
            return courier::failed{"it says " + signal_};
        }
        return {};
    });
    wires.action(in_, "hoist.strike", [this, &log] {
        log.react("hoist", "strikes " + signal_);
        signal_.clear();
        up_ = 0;
    });
}

} // namespace reef
