#include "barges.hpp"

#include "names.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <span>

namespace reef {

barges::barges(int count, int distance, const courier::hub& reef, night_log& log)
    : count_(count), distance_(distance), hails_(reef.channel(hails)), log_(log) {
    log_.expect("barges");
    // All bites of a frame at once.
    in_.subscribe(bitten_, [this](std::span<const BargeBitten> bites) {
        log_.heard("barges");
        if (bites.size() > 1) {
            log_.react("barges", fmt::format("take {} bites at once", bites.size()));
        }
        for (const BargeBitten& bite : bites) {
            barge& hurt = *fleet_[static_cast<std::size_t>(bite.barge - 1)];
            hurt.lose(bite.crates);
            log_.react(hurt.name(), fmt::format("has {} crates left", hurt.crates()));
        }
    });
}

void barges::launch() {
    for (int i = 1; i <= count_; ++i) {
        fleet_.push_back(std::make_unique<barge>(i, distance_ + 3 * i, life_, hails_, log_));
    }
}

int barges::come_in(int crates) {
    const int number = static_cast<int>(fleet_.size()) + 1;
    fleet_.push_back(std::make_unique<barge>(number, distance_, life_, hails_, log_));
    fleet_.back()->load(crates);
    return number;
}

std::vector<int> barges::afloat() const {
    std::vector<int> numbers;
    for (const auto& b : fleet_) {
        if (!b->moored()) {
            numbers.push_back(b->number());
        }
    }
    return numbers;
}

void barges::step(int frame, dice& chance) {
    for (const auto& b : fleet_) {
        if (!b->moored() && (frame + 2 * b->number()) % 8 == 0) {
            move(*b, frame, chance);
        }
    }
}

void barges::move(barge& b, int frame, dice& chance) {
    const int to = std::max(0, b.to_go() - chance.between(4, 8));
    if (log_.publish(b.name(), move_asked_, {.barge = b.number(), .to = to}).stopped()) {
        return;
    }
    b.cast_off(convoy_);
    b.move_to(to);
    if (to > 0) {
        log_.publish(b.name(), moved_, {.barge = b.number(), .to_go = to});
        return;
    }
    b.moor();
    log_.publish(
        b.name(), moored_,
        {.barge = b.number(), .berth = ++berths_taken_, .crates = b.crates(), .lost = b.lost(), .frame = frame});
}

} // namespace reef
