#include "program.hpp"

#include <fmt/format.h>

#include <utility>

namespace model {

std::vector<std::string> program::run(world& w) {
    world_ = &w;
    for (int i = 0; i < length_; ++i) {
        note(fmt::format("step {}", i));
        step();
        if (i % 8 == 0) {
            for (int c = 0; c < channels; ++c) {
                note(fmt::format("channel {} has {}", c, w.size_of_channel(c)));
            }
            for (int o = 0; o < owners; ++o) {
                note(fmt::format("owner {} has {}", o, w.size_of_owner(o)));
            }
        }
    }
    return std::move(log_);
}

void program::delivered(int number, int channel, int value) {
    note(fmt::format("{:>{}}handler {} on channel {} gets {}", "", depth_ * 2, number, channel, value));
    if (pick(4) == 0) {
        const int actions = 1 + pick(3);
        for (int i = 0; i < actions; ++i) {
            step();
        }
    }
}

void program::step() {
    ++steps_;
    const int what = pick(100);
    if (what < 26) {
        subscribe();
    } else if (what < 56) {
        publish();
    } else if (what < 58) {
        world_->toggle_member(pick(addresses));
    } else if (what < 63) {
        const int channel = pick(channels);
        const int way = channel == 0 ? 0 : pick(keeps_order_ ? 3 : 2);
        const int address = way == 0 ? everyone : way == 1 ? pick(addresses) : the_group;
        const int value = pick(60);
        note(fmt::format("post {} on channel {} to {}", value, channel, address));
        world_->post(channel, address, value);
    } else if (what < 66) {
        deliver();
    } else if (what < 80) {
        act_on_subscription(what);
    } else {
        act_on_owner(what);
    }
}

void program::subscribe() {
    behaviour b;
    b.number = made_++;
    b.channel = pick(channels);
    b.address = b.channel != 0 && pick(3) != 0 ? pick(addresses) : everyone;
    if (pick(10) == 0) {
        b.stage = 1; // the ordinary one
        b.relay_to = pick(channels);
        world_->subscribe(b);
        note(fmt::format("relay {} from {} at {} to {} is {}", b.number, b.channel, b.address, b.relay_to,
                         world_->live(b.number) ? "live" : "refused"));
        return;
    }
    b.stage = pick(3) == 0 ? pick(stages) : 1;
    b.owner = pick(2) == 0 ? pick(owners) : nobody;
    b.times = pick(4) == 0 ? static_cast<unsigned>(1 + pick(3)) : 0;
    b.condition = pick(5) == 0 ? 2 + pick(2) : 0;
    b.stops = pick(6) == 0 ? 3 + pick(4) : 0;
    b.whole_stage = pick(2) == 0;
    b.throws = pick(9) == 0 ? 4 + pick(3) : 0;
    world_->subscribe(b);
}

void program::publish() {
    if (depth_ == deepest) {
        return;
    }
    const int channel = pick(channels);
    const int value = pick(60);
    const int way = channel == 0 ? 0 : pick(4);
    const int address = way == 0 ? everyone : way == 1 ? the_group : pick(addresses);
    note(fmt::format("{:>{}}publish {} on channel {} to {}", "", depth_ * 2, value, channel, address));
    ++depth_;
    const outcome result = world_->publish(channel, address, value);
    --depth_;
    note(fmt::format("{:>{}}served {}{}{}{}{}", "", depth_ * 2, result.served, result.vacant ? " vacant" : "",
                     result.stopped ? " stopped by " + result.stopped_by : "", result.closed ? " closed" : "",
                     result.thrown != nobody ? fmt::format(" threw {}", result.thrown) : ""));
}

void program::deliver() {
    if (depth_ == deepest) {
        return;
    }
    note(fmt::format("{:>{}}deliver", "", depth_ * 2));
    ++depth_;
    const outcome result = world_->deliver();
    --depth_;
    note(fmt::format("{:>{}}delivered {}{}", "", depth_ * 2, result.served,
                     result.thrown != nobody ? fmt::format(" threw {}", result.thrown) : ""));
}

void program::act_on_subscription(int what) {
    const int number = some_subscription();
    if (number == nobody) {
        return;
    }
    note(fmt::format("{} is {}", number, world_->live(number) ? "live" : "ended"));
    if (what < 72) {
        world_->end(number);
    } else if (what < 76) {
        world_->pause(number, true);
    } else {
        world_->pause(number, false);
    }
}

void program::act_on_owner(int what) {
    const int owner = pick(owners);
    const int channel = pick(channels);
    if (what < 84) {
        world_->pause_owner(owner, true);
    } else if (what < 90) {
        world_->pause_owner(owner, false);
    } else if (what < 92) {
        world_->clear_owner(owner);
    } else if (what < 94) {
        world_->leave(owner, channel);
    } else if (what < 96) {
        world_->remake_owner(owner);
    } else if (what < 98) {
        world_->remake_channel(channel);
    } else {
        world_->tidy(channel);
    }
}

} // namespace model
