// The ways to stop listening: pause and resume, end one, leave a channel, go.
#include <courier/channel.hpp>
#include <courier/subscriber.hpp>
#include <courier/subscription.hpp>

#include <cstdio>

struct WyrmSighted {};
struct DawnCame {};

int main() {
    courier::channel<WyrmSighted> sighted{"wyrms.sighted"};
    courier::channel<DawnCame> dawn{"watch.dawn_came"};

    courier::subscriber bell{"bell"};
    bell.subscribe(sighted, [] { std::puts("  bell rings twice"); });
    bell.subscribe(dawn, [] { std::puts("  bell rings the night out"); });

    // Without a subscriber, a subscription is an object to be kept.
    courier::subscription horn = sighted.subscribe([] { std::puts("  horn sounds"); });

    std::puts("both listen:");
    sighted.publish();

    std::puts("the bell is muffled:");
    bell.pause();
    sighted.publish();

    std::puts("the bell is free again:");
    bell.resume();
    sighted.publish();

    std::puts("the horn is gone:");
    horn.end();
    sighted.publish();

    std::puts("the bell is done with wyrms:");
    bell.leave(sighted);
    std::printf("  %u served\n", sighted.publish().served());

    std::puts("dawn, once and for all:");
    dawn.publish();
    bell.clear();
    std::printf("  %u served\n", dawn.publish().served());
}
