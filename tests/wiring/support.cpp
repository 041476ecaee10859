// The harbour, compiled once for all files: its offers are the most of it.
#include "support.hpp"

namespace wired {

harbour::harbour() {
    wires.offer(sighted);
    wires.offer(raised);
    wires.offer(hailed);
    wires.offer(tide);
    wires.offer(hours);
    wires.use(time);
    wires.action<Ring>(in, "bell.ring", bell::north,
                       [this](const Ring& r) { done("north " + std::to_string(r.strokes)); });
    wires.action<Ring>(in, "bell.ring", bell::south,
                       [this](const Ring& r) { done("south " + std::to_string(r.strokes)); });
    wires.action<Line>(in, "board.write", [this](const Line& l) { done(l.text); });
    wires.action(in, "horn.sound", [this] { done("horn"); });
    wires.action<Numbers>(in, "numbers.take", [this](const Numbers& n) { numbers = n; });
    wires.action<Judged>(in, "hoist.judge", [](const Judged& j) -> courier::outcome<int> {
        if (j.shown != flag::whale) {
            return courier::failed{"the wrong flag"};
        }
        return 7;
    });
    wires.offer_setting(in, tide);
    wires.offer_publishing(in, raised);
}

harbour::~harbour() = default;

std::string harbour::load(const std::string& text) {
    try {
        change = wires.load_text("harbour.toml", text);
        return {};
    } catch (const courier::wiring_error& error) {
        return error.what();
    }
}

} // namespace wired
