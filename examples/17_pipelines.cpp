// A channel seen through adaptors: one handler on one subscription, as if written by hand.
#include <courier/channel.hpp>
#include <courier/pipeline.hpp>
#include <courier/subscriber.hpp>

#include <cstdio>
#include <functional>
#include <span>

struct Moored {
    int barge;
    int crates;
};

int main() {
    courier::channel<Moored> moored{"harbour.moored"};

    // A value: nothing is subscribed yet, and nothing is paid.
    const auto loads =
        moored | courier::filter([](const Moored& m) { return m.crates > 0; }) | courier::transform(&Moored::crates);

    courier::subscriber in{"ledger-keeper"};
    in.subscribe(loads | courier::accumulate(0, std::plus<>{}), [](int sum) { std::printf("  %d in all\n", sum); });
    in.subscribe(loads | courier::slide(3), [](std::span<const int> last) {
        std::printf("  the last three: %d %d %d\n", last[0], last[1], last[2]);
    });
    in.subscribe(moored | courier::only_changes(&Moored::barge) | courier::drop(1) | courier::take(2),
                 [](const Moored& m) { std::printf("  another barge: %d\n", m.barge); });

    for (const Moored& m : {Moored{1, 4}, {1, 0}, {2, 6}, {2, 1}, {3, 5}, {4, 2}}) {
        std::printf("barge %d, %d crates\n", m.barge, m.crates);
        moored.publish(m);
    }
    std::printf("%zu subscriptions left: the one that took two has ended\n", in.size());
}
