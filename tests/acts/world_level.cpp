// Systems, reactions, and handles that are assigned in their places.
#include "world.hpp"

namespace acts {

namespace {

/// Whatever is done with a system, it does something to the world in turn, which may end all of them.
template <int Which>
struct System {
    Farewell last;
    System() { meddle(true); }
    void update() { meddle(true); }
    void pause() { meddle(true); }
    void resume() { meddle(true); }
};
struct Upper : System<3> {
    Upper(System<1>&, const System<2>&) {}
};

} // namespace

courier::systems& world::systems() {
    if (systems_ == nullptr) {
        systems_ = std::make_unique<courier::systems>("level");
    }
    return *systems_;
}

courier::reactions<int>& world::reactions() {
    if (reactions_ == nullptr) {
        reactions_ =
            std::make_unique<courier::reactions<int>>("mast", [this, last = Farewell()](courier::subscriber& in, int) {
                if (roll(2) == 0) {
                    in.subscribe(channel(), heard());
                }
                react();
            });
    }
    return *reactions_;
}

courier::level& world::reef() {
    if (reef_ == nullptr) {
        const bool before = std::exchange(still_, true);
        reef_ = std::make_unique<courier::level>("reef", game_, [this, last = Farewell()](courier::level& here) {
            still_ = true; // it may not end before it is made
            here.in().subscribe(channel(), heard());
            here.make<System<5>>();
            here.make<courier::subscriber>("of the level").subscribe(channel(), heard());
            here.keep(hours().after(some_time(), channel(), Parcel(2)));
            in().follow(here);
            still_ = false;
            meddle(true);
        });
        still_ = before;
    }
    return *reef_;
}

void world::live_through_levels() {
    courier::level& one = reef();
    switch (roll(6)) {
    case 0:
        one.end();
        break;
    case 1:
        one.restart();
        break;
    case 2:
        one.sleep();
        break;
    case 3:
        one.wake();
        break;
    default:
        one.begin();
    }
}

void world::live_in_a_level() {
    try {
        roll(3) == 0 ? live_through_levels() : live_in_systems();
    } catch (const courier::fault_error&) {} // one that is being made was asked for
}

void world::live_in_systems() {
    switch (roll(8)) {
    case 0:
        static_cast<void>(systems().get<Upper>());
        break;
    case 1:
        teams_[roll(2)] = systems().add<System<0>, System<1>>("team");
        break;
    case 2:
        teams_[roll(2)] = systems().add<System<2>, System<4>>("other");
        break;
    case 3:
        systems().update(courier::game_time(1));
        break;
    case 4: {
        courier::team& one = teams_[roll(2)];
        one.paused() ? one.resume() : one.pause();
        break;
    }
    case 5:
        reactions().attach(number(4));
        break;
    case 6:
        if (reactions_ != nullptr) {
            reactions_->detach(number(4));
        }
        break;
    default:
        reactions().follow(group());
    }
}

// Without taking out first what is there.
void world::assign_a_handle() {
    switch (roll(5)) {
    case 0: {
        courier::subscription& to = assigned_[roll(3)];
        to = channel().subscribe([this, last = Farewell()](std::span<const Parcel>) { react(); },
                                 {.condition = [this](const Parcel&) { return roll(3) != 0; }});
        break;
    }
    case 1:
        assigned_[roll(3)] = channel().subscribe(heard());
        break;
    case 2: {
        courier::timetable& time = hours();
        courier::channel<Parcel>& on = channel();
        timers_[roll(6)] = time.every(courier::game_time(1 + roll(20)), on, Parcel(1));
        break;
    }
    case 3:
        memberships_[roll(3)] = group().join(number(4));
        break;
    default: {
        courier::subscription& one = assigned_[roll(3)];
        one.paused() ? one.resume() : one.pause();
    }
    }
}

void world::end_level() {
    switch (roll(4)) {
    case 0: {
        const auto gone = std::move(systems_);
        break;
    }
    case 2: {
        const auto gone = std::move(reef_);
        break;
    }
    case 1: {
        const auto gone = std::move(reactions_);
        break;
    }
    default:
        roll(2) == 0 ? assigned_[roll(3)].end() : teams_[roll(2)].end();
    }
}

} // namespace acts
