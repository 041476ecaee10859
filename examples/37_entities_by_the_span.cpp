// One system for many objects: it gets a round's payloads in one call, each with the object that it is for.
#include <courier/addressed_channel.hpp>
#include <courier/addressed_payload.hpp>
#include <courier/addressed_poster.hpp>
#include <courier/outbox.hpp>
#include <courier/subscriber.hpp>

#include <cstdint>
#include <cstdio>
#include <span>
#include <vector>

using gull_id = std::uint32_t;

struct Gust {
    float strength;
};

int main() {
    constexpr gull_id gulls = 1000;
    courier::addressed_channel<Gust, gull_id> gust{"gulls.gust"};
    courier::outbox frame{"frame"};
    const courier::addressed_poster<Gust, gull_id> wind{frame, gust};

    // The flock keeps its numbers side by side, and no handler for each gull.
    std::vector<float> height(gulls, 10.0F);
    courier::subscriber flock{"flock"};
    flock.subscribe(gust, [&height](std::span<const courier::addressed_payload<Gust, gull_id>> all) {
        for (const auto& [to, what] : all) {
            if (to) {
                height[*to] += what.strength;
            }
        }
        std::printf("flock: %zu gusts in one call\n", all.size());
    });

    // Who cares for a single gull listens at its address, as ever.
    courier::subscriber watcher{"watcher"};
    watcher.subscribe(gust.at(7), [](const Gust& g) { std::printf("watcher: gull 7, %.1f\n", double{g.strength}); });

    for (int round = 1; round <= 2; ++round) {
        for (gull_id gull = 0; gull < gulls; gull += 7) {
            wind.post_to(gull, {.strength = static_cast<float>(gull % 10) / 10.0F});
        }
        frame.deliver();
        std::printf("round %d: gull 7 flies at %.1f, gull 8 at %.1f\n", round, double{height[7]}, double{height[8]});
    }
}
