// Calls after a while, owned by whoever asked; and reactions that fit any barge.
#include <courier/addressed_channel.hpp>
#include <courier/group.hpp>
#include <courier/outbox.hpp>
#include <courier/reactions.hpp>
#include <courier/timetable.hpp>

#include <chrono>
#include <cstdio>

using namespace std::chrono_literals;

struct Bitten {
    int crates;
};

int main() {
    courier::outbox later{"end of frame"};
    courier::timetable clock{later};
    courier::addressed_channel<Bitten, int> bitten{"barges.bitten"};
    courier::group<int> convoy{"convoy"};
    const auto second = [&] {
        clock.advance(1s);
        later.deliver();
    };

    // What one barge does, written once; for each that joins, until it leaves.
    courier::reactions<int> crew{"crew", [&](courier::subscriber& in, int barge) {
                                     in.subscribe(bitten.at(barge), [&, barge](const Bitten& b) {
                                         std::printf("barge %d lost %d: pumps on\n", barge, b.crates);
                                         in.after(clock, 2s, [barge] { std::printf("barge %d is dry\n", barge); });
                                     });
                                 }};
    crew.follow(convoy);
    const auto three = convoy.join(3);
    auto four = convoy.join(4);

    // A handler that listens to all may take the address.
    courier::subscriber board{"board"};
    board.subscribe(bitten, [](int barge, const Bitten&) { std::printf("board: barge %d is bitten\n", barge); });
    const courier::subscription_key bell = board.every(clock, 1s, [] { std::puts("bell"); });

    bitten.publish_to(3, {.crates = 2});
    bitten.publish_to(4, {.crates = 1});
    four.end(); // whose timer ends with it
    second();
    board.end(bell);
    second();
    board.once(bitten, [] { std::puts("board: one more"); });
    bitten.publish_to(3, {.crates = 1});
    bitten.publish_to(3, {.crates = 1});
}
