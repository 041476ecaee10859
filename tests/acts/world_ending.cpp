// What ends.
#include "world.hpp"

namespace acts {

// Taken out of its place first, as owners of such things do.
template <class T, std::size_t N>
static void end_one(std::array<place<T>, N>& all, std::size_t which) {
    const place<T> gone = std::move(all[which % N]);
}

void world::end_later() {
    switch (roll(4)) {
    case 0: {
        const auto time = std::move(hours_);
        const auto gone = std::move(wires_);
        break;
    }
    case 1: {
        const auto gone = std::move(arrivals_);
        break;
    }
    case 2: {
        const auto gone = std::move(frame_);
        break;
    }
    default: {
        const auto gone = std::move(arrivals_); // which posts into the outbox
        const auto box = std::move(later_);
    }
    }
}

void world::end_value() {
    if (in_value_ != 0) {
        return;
    }
    switch (roll(4)) {
    case 0:
        end_one(states_, roll(3));
        break;
    case 1:
        if (in_formula_ == 0) {
            end_one(formulas_, roll(3));
        }
        break;
    case 2:
        end_one(lists_, roll(2));
        break;
    default:
        end_one(maps_, roll(2));
    }
}

void world::end_something() {
    switch (roll(16)) {
    case 15: {
        const auto gone = std::move(wires_);
        break;
    }
    case 0:
        end_one(channels_, roll(3));
        break;
    case 1:
        end_one(anchors_, roll(2));
        break;
    case 2:
        end_one(addressed_, roll(2));
        break;
    case 3:
    case 4:
        end_value();
        break;
    case 5:
    case 6:
        end_later();
        break;
    case 7:
        roll(2) == 0 ? end_one(posters_, roll(3)) : end_one(addressed_posters_, roll(2));
        break;
    case 8:
        roll(2) == 0 ? end_one(anchor_posters_, roll(2)) : end_one(senders_, roll(2));
        break;
    case 9: {
        const auto gone = std::move(timers_[roll(6)]);
        const auto left = std::move(memberships_[roll(3)]);
        break;
    }
    case 14:
        end_level();
        break;
    case 10: {
        end_one(subscriptions_, roll(4));
        end_one(relays_, roll(2));
        break;
    }
    case 11:
        roll(2) == 0 ? end_one(groups_, roll(2)) : end_one(tallies_, roll(2));
        break;
    default:
        end_one(subscribers_, roll(4));
    }
}

std::string world::finish() {
    ending_ = true;
    frame_.reset();
    const auto end_all = [](auto& all) {
        for (auto& one : all) {
            one = {};
        }
    };
    end_all(subscribers_);
    end_all(subscriptions_);
    end_all(relays_);
    end_all(assigned_);
    reactions_.reset();
    end_all(teams_);
    reef_.reset();
    systems_.reset();
    end_all(senders_);
    arrivals_.reset();
    end_all(timers_);
    end_all(memberships_);
    end_all(posters_);
    end_all(anchor_posters_);
    end_all(addressed_posters_);
    wires_.reset();
    hours_.reset();
    later_.reset();
    end_all(tallies_);
    end_all(groups_);
    end_all(formulas_);
    end_all(states_);
    end_all(lists_);
    end_all(maps_);
    end_all(channels_);
    end_all(anchors_);
    end_all(addressed_);
    end_all(ledgers_);
    if (!courier::list_sequences().empty()) {
        return "sequences are left";
    }
    if (!courier::list_refreshers().empty()) {
        return "refreshers are left";
    }
    return alive != 0 ? std::to_string(std::exchange(alive, 0)) + " payloads or captures are left" : "";
}

} // namespace acts
