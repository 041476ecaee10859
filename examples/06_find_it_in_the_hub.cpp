// A hub finds the channel of a payload, so that nobody has to hand it around.
#include <courier/channel_name.hpp>
#include <courier/hub.hpp>
#include <courier/publisher.hpp>
#include <courier/subscriber.hpp>

#include <cstdio>

struct StormBroke {};
struct Rang {
    int times;
};

// Where one payload has several channels: names, declared once.
inline constexpr courier::channel_name<Rang> fog_bell{"sound.fog_bell"};
inline constexpr courier::channel_name<Rang> ship_bell{"sound.ship_bell"};

// Gets the right to publish, resolved once; from then on it is as fast as a channel of its own.
class Bell {
public:
    explicit Bell(courier::hub& reef) : rang_(reef.channel(fog_bell), "bell") {
        in_.subscribe(reef.channel<StormBroke>(), [this] { rang_.publish({.times = 3}); });
    }

private:
    courier::publisher<Rang> rang_;
    courier::subscriber in_{"bell"};
};

// A const hub gives the right to subscribe, and nothing else.
class Keeper {
public:
    explicit Keeper(const courier::hub& reef) {
        in_.subscribe(reef.channel(fog_bell), [](const Rang& r) { std::printf("  fog bell, %d times\n", r.times); });
        in_.subscribe(reef.channel(ship_bell), [](const Rang& r) { std::printf("  ship bell, %d times\n", r.times); });
    }

private:
    courier::subscriber in_{"keeper"};
};

int main() {
    courier::hub reef{"reef"}; // one for each match, test, half of a split screen
    const Keeper keeper(reef);
    const Bell bell(reef);

    std::puts("the storm breaks");
    reef.channel<StormBroke>().publish();

    courier::hub far_reef{"far reef", reef}; // sees the channels of its parent, and makes its own
    std::puts("a ship passes the far reef");
    far_reef.channel(ship_bell).publish({.times = 1});

    for (const courier::hub_line& line : reef.list()) {
        std::printf("%s: %zu subscribed\n", line.name.c_str(), line.subscriptions);
    }
}
