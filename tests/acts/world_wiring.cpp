// What files connect, loaded anew from anywhere.
#include "world.hpp"

namespace acts {

namespace {

struct Nothing {};

constexpr std::array<const char*, 5> texts{{
    "[[wire]]\nwhen = 'one'\ndo = ['act']",
    "[[wire]]\nwhen = 'one'\ndo = ['act', 'act']\ntimes = 2\n[[wire]]\nwhen = 'one'\nevery = '3 ms'\ndo = ['act']",
    "[[wire]]\nwhen = 'one'\nafter = '2 ms'\ndo = [{ action = 'act', failed = ['act'] }]",
    "[[wire]]\nset = 'storm'\nwhen = 'one'\ndo = [{ action = 'act', done = [{ action = 'act' }] }]",
    "[[wire]]\nwhen = 'two'\ndo = ['act']", // nobody offers it
}};

} // namespace

courier::wiring& world::wires() {
    courier::timetable& when = hours();
    if (wires_ == nullptr) {
        const bool before = std::exchange(still_, true);
        wires_ = std::make_unique<courier::wiring>("wires");
        wires_->use(when);
        still_ = before; // one may be made while another one is
    }
    return *wires_;
}

void world::wire_up() {
    courier::wiring& all = wires();
    switch (roll(12)) {
    case 0:
    case 1:
        all.offer(channel());
        break;
    case 2:
        all.offer(addressed());
        break;
    case 3:
    case 6:
    case 7:
        all.action(in(), "act", [this, last = Farewell()] { react(); });
        break;
    case 4:
        all.switch_set("storm", roll(2) == 0);
        break;
    case 5:
        all.clear();
        break;
    default:
        try {
            all.load_text("wires.toml", texts[roll(texts.size())]);
        } catch (const courier::wiring_error&) {} // what it names has not been offered
    }
}

} // namespace acts
