// A relay makes a gameplay event of a low-level happening; a period says when a subscription is live.
#include <courier/channel.hpp>
#include <courier/period.hpp>
#include <courier/relay.hpp>
#include <courier/subscriber.hpp>

#include <cstdio>
#include <optional>

struct Touched { // physics: two bodies met
    int body;
    int other;
    float force;
};
struct BargeBitten { // the game: a wyrm bit a barge
    int barge;
    int crates;
};
constexpr int first_wyrm = 100;

int main() {
    courier::channel<Touched> touched{"physics.touched"};
    courier::channel<BargeBitten> bitten{"barges.bitten"};

    // Neither side knows of the other; the relay is an object that somebody owns.
    courier::relay bites{touched, bitten, [](const Touched& t) -> std::optional<BargeBitten> {
                             if (t.other < first_wyrm || t.force < 1.0F) {
                                 return std::nullopt; // not forwarded
                             }
                             return BargeBitten{.barge = t.body, .crates = static_cast<int>(t.force)};
                         }};

    courier::period storm_watch{"storm watch", {.running = false}};
    courier::subscriber crew{"crew"};
    crew.subscribe(bitten, [](const BargeBitten& b) { std::printf("  crew mends barge %d\n", b.barge); },
                   {.during = storm_watch}); // instead of an `if` in every handler
    courier::subscriber horn{"horn"};
    horn.subscribe(bitten, [](const BargeBitten& b) { std::printf("  horn: %d crates gone\n", b.crates); });

    std::puts("dusk");
    touched.publish({.body = 1, .other = 2, .force = 9.0F}); // two barges
    touched.publish({.body = 1, .other = 101, .force = 3.0F});
    std::puts("the storm watch is set");
    storm_watch.begin();
    touched.publish({.body = 2, .other = 101, .force = 2.0F});

    std::puts("a relay back would go in a circle");
    const courier::relay back{bitten, touched, [](const BargeBitten& b) { return Touched{b.barge, first_wyrm, 1.0F}; }};
    std::printf("  live: %s\n", back.live() ? "yes" : "no");
}
