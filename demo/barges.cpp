#include "barges.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace reef {

barges::barges(int count, int distance, night_log& log) : log_(log) {
    for (int i = 1; i <= count; ++i) {
        fleet_.push_back({.number = i, .to_go = distance + 3 * i, .crates = 40, .lost = 0, .moored = false});
    }
    log_.expect("barges");
    in_.subscribe(bitten_, [this](const BargeBitten& bite) {
        log_.heard("barges");
        barge& hurt = fleet_[static_cast<std::size_t>(bite.barge - 1)];
        hurt.crates -= bite.crates;
        hurt.lost += bite.crates;
        log_.react(fmt::format("barge {}", hurt.number), fmt::format("has {} crates left", hurt.crates));
    });
}

std::vector<int> barges::afloat() const {
    std::vector<int> numbers;
    for (const barge& b : fleet_) {
        if (!b.moored) {
            numbers.push_back(b.number);
        }
    }
    return numbers;
}

void barges::step(int frame, dice& chance) {
    for (barge& b : fleet_) {
        if (!b.moored && (frame + 2 * b.number) % 8 == 0) {
            move(b, frame, chance);
        }
    }
}

void barges::move(barge& b, int frame, dice& chance) {
    const std::string name = fmt::format("barge {}", b.number);
    const int to = std::max(0, b.to_go - chance.between(4, 8));
    if (log_.publish(name, move_asked_, {.barge = b.number, .to = to}).stopped()) {
        return;
    }
    b.to_go = to;
    if (to > 0) {
        log_.publish(name, moved_, {.barge = b.number, .to_go = to});
        return;
    }
    b.moored = true;
    log_.publish(name, moored_,
                 {.barge = b.number, .berth = ++berths_taken_, .crates = b.crates, .lost = b.lost, .frame = frame});
}

} // namespace reef
