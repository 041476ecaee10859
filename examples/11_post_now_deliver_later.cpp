// An outbox takes payloads when they are posted and delivers them when the frame is ready for them.
#include <courier/channel.hpp>
#include <courier/outbox.hpp>
#include <courier/poster.hpp>
#include <courier/subscriber.hpp>

#include <cstdio>

struct BargeBitten {
    int barge;
    int crates;
};
struct CratesLost {
    int crates;
};

int main() {
    courier::channel<BargeBitten> bitten{"barges.bitten"};
    courier::channel<CratesLost> lost{"barges.lost"};
    courier::outbox later{"end of frame"};

    // However many bites there are in a frame, the board changes once, by their sum.
    const courier::poster<CratesLost> losses{
        later, lost, {.combine = [](CratesLost& kept, const CratesLost& newer) { kept.crates += newer.crates; }}};

    courier::subscriber in{"board"};
    in.subscribe(bitten, [&losses](const BargeBitten& b) {
        std::printf("  barge %d bitten\n", b.barge);
        losses.post({.crates = b.crates}); // posted in a round: goes into the next
    });
    in.subscribe(lost, [](const CratesLost& l) { std::printf("  board: %d crates lost\n", l.crates); });

    std::puts("three bites are posted");
    for (int barge = 1; barge <= 3; ++barge) {
        later.post(bitten, {.barge = barge, .crates = 2});
    }
    std::puts("one round");
    later.deliver();
    std::puts("until quiet");
    later.deliver_until_quiet();

    std::puts("a budget of two: the rest comes first the next time");
    for (int barge = 1; barge <= 3; ++barge) {
        later.post(bitten, {.barge = barge, .crates = 1});
    }
    const courier::round_report r = later.deliver({.payloads = 2});
    std::printf("  %zu left\n", r.left);
    later.deliver_until_quiet();
}
