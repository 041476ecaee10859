#include "wyrms.hpp"

#include <algorithm>

namespace reef {

void wyrms::dazzle(int wyrm_number) {
    std::erase_if(up_, [=](const wyrm& w) { return w.number == wyrm_number; });
    log_.publish("wyrms", driven_off_, {.wyrm = wyrm_number});
}

void wyrms::step(int frame, bool storm, dice& chance) {
    if (storm && chance.one_in(7)) {
        up_.push_back({.number = ++seen_, .distance = chance.between(2, 5)});
        const wyrm w = up_.back();
        log_.publish("wyrms", sighted_,
                     {.wyrm = w.number, .bearing = chance.between(0, 35) * 10, .distance = w.distance});
    }
    if (frame % 2 != 0) {
        return;
    }
    bitten_off_.clear();
    for (wyrm& w : up_) {
        if (--w.distance == 0) {
            bite(w, chance);
        }
    }
    std::erase_if(up_, [](const wyrm& w) { return w.distance <= 0; });
}

void wyrms::bite(const wyrm& w, dice& chance) {
    // Bites of this frame come to the barges at its end only.
    const auto crates_left = [this](int barge) { return convoy_.crates(barge) - bitten_off_[barge]; };
    std::vector<int> prey = convoy_.afloat();
    std::erase_if(prey, [&](int barge) { return crates_left(barge) == 0; });
    if (prey.empty()) {
        return;
    }
    const int barge = prey[static_cast<std::size_t>(chance.between(0, static_cast<int>(prey.size()) - 1))];
    const int crates = std::min(chance.between(1, 4), crates_left(barge));
    bitten_off_[barge] += crates;
    log_.post("wyrms", bites_, convoy_.bitten().name(), {.barge = barge, .wyrm = w.number, .crates = crates});
}

} // namespace reef
