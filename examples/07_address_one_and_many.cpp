// A payload for one, for a group, or for everyone.
#include <courier/addressed_channel.hpp>
#include <courier/group.hpp>
#include <courier/subscriber.hpp>

#include <cstdio>
#include <memory>
#include <string>

struct Hailed {
    const char* order;
};

using Hails = courier::addressed_channel<Hailed, int>; // the address is a barge's number

class Barge {
public:
    Barge(int number, const Hails& hails, courier::group<int>& convoy) : in_convoy_(convoy.join(number)) {
        in_.subscribe(hails.at(number),
                      [number](const Hailed& h) { std::printf("  barge %d: %s, aye\n", number, h.order); });
    }

private:
    courier::membership<int> in_convoy_; // leaves when the barge goes
    courier::subscriber in_{"barge"};
};

int main() {
    Hails hails{"harbour.hails"};
    courier::group<int> convoy{"convoy"};
    courier::subscriber clerk{"clerk"};
    clerk.subscribe(hails, [](const Hailed& h) { std::printf("  clerk writes: %s\n", h.order); }); // listens to all

    const Barge first(1, hails, convoy);
    auto second = std::make_unique<Barge>(2, hails, convoy);

    std::puts("to barge 2");
    hails.publish_to(2, {.order = "heave to"});
    std::puts("to the convoy");
    hails.publish_to(convoy, {.order = "reef sails"});
    std::puts("barge 2 sinks; to the convoy, and to everyone");
    second.reset();
    hails.publish_to(convoy, {.order = "keep together"});
    hails.publish({.order = "good night"});

    std::puts("to barge 2");
    const courier::receipt r = hails.publish_to(2, {.order = "answer me"});
    std::printf("nobody there: %s\n", r.vacant() ? "yes" : "no");
}
