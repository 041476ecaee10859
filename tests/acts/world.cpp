#include "world.hpp"

namespace acts {

namespace {

world* now = nullptr;

} // namespace

void meddle(bool may_throw) {
    if (now != nullptr) {
        now->meddle(may_throw);
    }
}

void meddle_in_value(bool may_throw) {
    if (now != nullptr) {
        now->meddle_in_value(may_throw);
    }
}

world::world(unsigned seed) : chance_(seed) {
    now = this;
}

world::~world() {
    now = nullptr;
}

void world::step() {
    left_ = 60;
    act();
}

void world::meddle(bool may_throw) {
    if (!ending_ && roll(12) == 0) {
        act();
    }
    if (may_throw && roll(60) == 0 && !ending_) {
        throw squall();
    }
}

void world::meddle_in_value(bool may_throw) {
    ++in_value_;
    if (!ending_ && roll(8) == 0) {
        act();
    }
    --in_value_;
    if (may_throw && roll(60) == 0 && !ending_) {
        throw squall();
    }
}

void world::react() {
    if (roll(3) == 0) {
        act();
    }
    if (roll(50) == 0) {
        throw squall();
    }
}

void world::act() {
    if (depth_ > 4 || left_ <= 0 || still_) {
        return;
    }
    --left_;
    ++depth_;
    try {
        switch (roll(20)) {
        case 0:
        case 1:
            publish();
            break;
        case 2:
            post();
            break;
        case 3:
            make_poster();
            break;
        case 4:
        case 5:
            let_time_pass();
            break;
        case 6:
        case 7:
            change_value();
            break;
        case 8:
            keep_books();
            break;
        case 9:
            count();
            break;
        case 10:
            subscribe_plainly();
            break;
        case 11:
            subscribe_to_one();
            break;
        case 12:
            subscribe_to_several();
            break;
        case 13:
            subscribe_to_values();
            break;
        case 14:
            keep_something();
            break;
        case 15:
            live_in_a_level();
            break;
        case 17:
        case 18:
            wire_up();
            break;
        case 16:
            assign_a_handle();
            break;
        default:
            end_something();
        }
    } catch (const squall&) {}
    --depth_;
}

courier::outbox& world::later() {
    if (later_ == nullptr) {
        const bool before = std::exchange(still_, true); // whoever asks goes on with other things that it has found
        if (frame_ != nullptr && hours_ != nullptr) {
            frame_->leave(*hours_);
        }
        wires_.reset();
        hours_.reset();
        still_ = before; // one may be made while another one is
        later_ = std::make_unique<courier::outbox>("later");
    }
    return *later_;
}

courier::timetable& world::hours() {
    later();
    if (hours_ == nullptr) {
        hours_ = std::make_unique<courier::timetable>(later());
    }
    return *hours_;
}

courier::inbox& world::arrivals() {
    later();
    if (arrivals_ == nullptr) {
        arrivals_ = std::make_unique<courier::inbox>(later(), "arrivals", courier::inbox_options{.limit = 20});
    }
    return *arrivals_;
}

courier::frame_driver& world::frame() {
    if (frame_ == nullptr) {
        frame_ = std::make_unique<courier::frame_driver>();
    }
    return *frame_;
}

courier::formula<Load>& world::formula() {
    place<courier::formula<Load>>& one = formulas_[roll(3)];
    if (one == nullptr) {
        one = std::make_unique<courier::formula<Load>>("formula", [this, last = Farewell()] {
            ++in_formula_;
            struct over {
                int& count;
                ~over() { --count; }
            } const until_then{in_formula_};
            int sum = 0;
            for (const auto& each : states_) {
                sum += each != nullptr && roll(2) == 0 ? each->read().tons : 0;
            }
            react();
            return Load(sum / 2);
        });
    }
    return *one;
}

Load world::look() {
    int sum = 0;
    for (const auto& each : states_) {
        sum += each != nullptr && roll(2) == 0 ? each->read().tons : 0;
    }
    for (auto& each : maps_) {
        sum += each != nullptr && each->read(number(4)) != nullptr ? 1 : 0;
    }
    for (const auto& each : formulas_) {
        if (each != nullptr && roll(3) == 0) {
            sum += each->read().tons;
        }
    }
    if (roll(8) == 0) {
        act();
    }
    return Load(sum);
}

void world::publish() {
    switch (roll(6)) {
    case 0:
        anchors().publish(Anchor(number(9)));
        break;
    case 1:
        addressed().publish_to(number(4), Parcel(number(9)));
        break;
    case 2: {
        const Parcel three[] = {Parcel(1), Parcel(2), Parcel(3)};
        channel().publish_all(three);
        break;
    }
    case 3: {
        courier::addressed_channel<Parcel, int>& on = addressed();
        on.publish_to(group(), Parcel(number(9)));
        break;
    }
    default:
        channel().publish(Parcel(number(9)));
    }
}

} // namespace acts
