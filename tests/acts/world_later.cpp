// What is posted, sent and timed.
#include "world.hpp"

namespace acts {

void world::make_poster() {
    courier::posting_options<Parcel> how;
    switch (roll(4)) {
    case 0:
        how.keep = courier::keep::one;
        break;
    case 1:
        how.combine = [this, last = Farewell()](Parcel& kept, const Parcel& newer) {
            kept.number += newer.number;
            react();
        };
        how.keep = courier::keep::one_per_address;
        break;
    case 2:
        how.limit = 1 + roll(3);
        how.when_full = roll(2) == 0 ? courier::when_full::turn_away : courier::when_full::drop_oldest;
        break;
    default:;
    }
    courier::outbox& through = later();
    switch (roll(4)) {
    case 0: {
        courier::channel<Anchor>& to = anchors();
        courier::posting_options<Anchor> plain;
        plain.keep = roll(2) == 0 ? courier::keep::one : courier::keep::all;
        plain.limit = 1 + roll(4);
        plain.when_full = courier::when_full::drop_oldest;
        auto made = std::make_unique<courier::poster<Anchor>>(through, to, plain);
        anchor_posters_[roll(2)].swap(made);
        break;
    }
    case 1: {
        courier::addressed_channel<Parcel, int>& to = addressed();
        auto made = std::make_unique<courier::addressed_poster<Parcel>>(through, to, std::move(how));
        addressed_posters_[roll(2)].swap(made);
        break;
    }
    default: {
        courier::channel<Parcel>& to = channel();
        auto made = std::make_unique<courier::poster<Parcel>>(through, to, std::move(how));
        posters_[roll(3)].swap(made);
    }
    }
}

void world::post() {
    switch (roll(8)) {
    case 0: {
        courier::outbox& through = later();
        through.post(channel(), Parcel(number(9)));
        break;
    }
    case 1: {
        courier::outbox& through = later();
        through.post_to(addressed(), number(4), Parcel(number(9)));
        break;
    }
    case 2:
        if (const auto& to = anchor_posters_[roll(2)]; to != nullptr) {
            to->post(Anchor(number(9)));
        }
        break;
    case 3:
        if (const auto& to = addressed_posters_[roll(2)]; to != nullptr) {
            to->post_to(number(3), Parcel(number(9)));
        }
        break;
    case 4:
        if (const auto& by = senders_[roll(2)]; by != nullptr) {
            by->send(Parcel(number(9)));
        } else if (const auto& to = posters_[roll(3)]; to != nullptr) {
            courier::inbox& through = arrivals();
            auto made = std::make_unique<courier::inlet<Parcel>>(through, *to);
            senders_[roll(2)].swap(made);
        }
        break;
    default:
        if (const auto& to = posters_[roll(3)]; to != nullptr) {
            to->post(Parcel(number(9)));
        }
    }
}

void world::let_time_pass() {
    switch (roll(9)) {
    case 0: {
        courier::timetable& when = hours();
        auto made = when.after(some_time(), channel(), Parcel(number(9)));
        if (roll(2) == 0) {
            made.release();
        }
        std::swap(timers_[roll(6)], made);
        break;
    }
    case 1: {
        courier::timetable& when = hours();
        if (const auto& to = posters_[roll(3)]; to != nullptr) {
            auto made = when.every(some_time() + courier::game_time(1), *to, Parcel(number(9)));
            std::swap(timers_[roll(6)], made);
        }
        break;
    }
    case 2:
        timers_[roll(6)].end();
        break;
    case 3:
        hours().advance(some_time());
        break;
    case 4:
        arrivals().take_in(roll(2) == 0 ? courier::budget{.payloads = 2} : courier::budget{});
        break;
    case 5: {
        courier::frame_driver& each = frame();
        switch (roll(4)) {
        case 0:
            each.advance(hours());
            break;
        case 1:
            each.take_in(arrivals(), {.payloads = 1 + roll(4)});
            break;
        case 2: {
            courier::outbox& through = later();
            if (roll(3) == 0) {
                each.leave(through);
                break;
            }
            each.deliver(through, {.spent = [this, last = Farewell()] {
                             react();
                             return roll(9) == 0;
                         }});
            break;
        }
        default:
            each.run(some_time());
        }
        break;
    }
    case 6:
        later().deliver_until_quiet(3);
        break;
    default:
        later().deliver({.payloads = 1 + roll(6)});
    }
}

} // namespace acts
