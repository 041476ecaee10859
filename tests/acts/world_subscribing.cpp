// What is subscribed, and waits.
#include "world.hpp"

namespace acts {

void world::subscribe_plainly() {
    const bool retained = roll(2) == 0;
    switch (roll(7)) {
    case 0:
        in().subscribe(channel(), [this, last = Farewell()](std::span<const Parcel>) { react(); });
        break;
    case 1:
        in().subscribe(channel(), [this, last = Farewell()](const Parcel&) {
            react();
            return roll(5) == 0 ? courier::verdict::stop : courier::verdict::go_on;
        });
        break;
    case 2:
        in().subscribe(addressed().at(number(4)), heard(), {.retained = retained});
        break;
    case 3: {
        auto made = std::make_unique<courier::subscription>(anchors().subscribe(heard(), {.times = roll(3)}));
        subscriptions_[roll(4)].swap(made);
        break;
    }
    case 4:
        in().subscribe(channel(), heard(),
                       {.condition = [this, last = Farewell()](const Parcel&) { return react(), roll(2) == 0; },
                        .retained = retained});
        break;
    case 5: {
        courier::channel<Parcel>& from = channel();
        auto made = std::make_unique<courier::relay>(from, addressed(), [this](const Parcel& p) {
            react();
            return courier::for_address<int, Parcel>{p.number % 4, p};
        });
        relays_[roll(2)].swap(made);
        break;
    }
    default:
        in().subscribe(channel(), heard(), {.retained = retained});
    }
}

void world::subscribe_to_values() {
    const bool retained = roll(2) == 0;
    switch (roll(6)) {
    case 0:
        in().subscribe(list(), heard(), {.retained = retained});
        break;
    case 1:
        in().subscribe(map(), heard(), {.retained = retained});
        break;
    case 2:
        if (in_formula_ == 0) {
            in().subscribe(formula(), heard());
        }
        break;
    case 3:
        in().keep_current([this, last = Farewell()] { static_cast<void>(look()); });
        break;
    case 4: {
        courier::outbox& through = later();
        in().keep_current(through, [this, last = Farewell()] { static_cast<void>(look()); });
        break;
    }
    default:
        in().subscribe(state(), heard(), {.retained = retained});
    }
}

void world::subscribe_to_one() {
    const auto test = [this, last = Farewell()](const Parcel& p) { return react(), p.number > 2; };
    switch (roll(7)) {
    case 0:
        in().subscribe(channel() | courier::filter(test) | courier::take(1 + roll(3)), heard());
        break;
    case 1:
        in().subscribe(channel() | courier::quiet_for(hours(), some_time()), heard());
        break;
    case 2:
        in().subscribe(channel() | courier::slide(2) | courier::at_most_every(hours(), some_time()), heard());
        break;
    case 3:
        in().subscribe(channel() | courier::drop_while(test) | courier::transform([this](const Parcel& p) {
                           return react(), p.number;
                       }) | courier::only_changes(),
                       heard(), {.times = roll(3)});
        break;
    case 4:
        in().subscribe(channel() | courier::take_while(test), heard());
        break;
    case 5:
        in().subscribe(channel() |
                           courier::accumulate(0, [this](int sum, const Parcel& p) { return react(), sum + p.number; }),
                       heard());
        break;
    default:
        in().start(story());
    }
}

void world::subscribe_to_several() {
    const bool retained = roll(2) == 0;
    const auto test = [this](const Parcel& p) { return react(), p.number > 2; };
    switch (roll(4)) {
    case 0:
        in().subscribe(courier::merge(channel(), channel() | courier::filter(test)) | courier::drop(roll(2)), heard(),
                       {.times = roll(3), .retained = retained});
        break;
    case 1:
        in().subscribe(channel() | courier::beside(channel()) | courier::take(2), heard(), {.retained = retained});
        break;
    case 2:
        in().subscribe(courier::once_all(channel(), channel(), channel()), heard());
        break;
    default:
        in().subscribe(channel() | courier::overridden_by(channel() | courier::transform([this](const Parcel& p) {
                                                              react();
                                                              return p.number % 2 != 0 ? std::optional(p)
                                                                                       : std::nullopt;
                                                          })),
                       heard());
    }
}

void world::keep_something() {
    switch (roll(4)) {
    case 0:
        channel().on_failure([this, last = Farewell()](const courier::failure&) { react(); });
        break;
    case 1:
        roll(3) == 0 ? channel().forget_latest() : channel().retain_latest();
        addressed().retain_latest();
        break;
    case 2:
        channel().shrink();
        break;
    default:
        roll(2) == 0 ? in().pause() : in().resume();
    }
}

courier::sequence<> world::story() {
    const Farewell last;
    for (int i = 0; i < 4; ++i) {
        switch (roll(7)) {
        case 0:
            co_await courier::next(channel(), [this](const Parcel& p) { return react(), p.number > 2; });
            break;
        case 1:
            co_await courier::when_any(courier::next(channel()), courier::elapsed(hours(), some_time()));
            break;
        case 2:
            co_await courier::next(state());
            break;
        case 3:
            co_await courier::next(courier::merge(channel(), channel()));
            break;
        case 4:
            co_await courier::until([this] { return look().tons > 3; });
            break;
        case 5: {
            courier::arrivals all{channel()};
            co_await courier::next(channel());
            co_await all.next();
            break;
        }
        default:
            co_await courier::when_all(inner_story(), courier::next(channel()));
        }
        react();
    }
}

courier::sequence<int> world::inner_story() {
    const Farewell last;
    co_await courier::when_any(courier::next(channel()), courier::next(channel()));
    react();
    co_return 3;
}

} // namespace acts
