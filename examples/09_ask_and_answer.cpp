// A query is asked by one system and answered by others; there may be no answer, and that cannot be forgotten.
#include <courier/query.hpp>
#include <courier/stage.hpp>
#include <courier/subscriber.hpp>

#include <cstdio>
#include <optional>

struct DepthAsked {     // the question, and what it is answered with
    using answer = int; // fathoms
    static constexpr auto answered = courier::answering::in_order;
    int hour;
};
struct KeeperAsked { // one answerer only, unless the question says otherwise
    using answer = const char*;
};

inline constexpr courier::stage last_resort = courier::after(courier::ordinary, "last resort");

void show(const courier::query<DepthAsked>& depth, int hour) { // a const query can be asked only
    if (const std::optional<int> fathoms = depth.ask({.hour = hour})) {
        std::printf("  hour %d: %d fathoms\n", hour, *fathoms);
    } else {
        std::printf("  hour %d: nobody knows\n", hour);
    }
}

int main() {
    courier::query<DepthAsked> depth{"tides.depth"};
    std::puts("nobody there");
    show(depth, 3);

    courier::subscriber disk{"copy on disk"};
    disk.answer(depth, [](const DepthAsked& q) { return q.hour < 12 ? std::optional{1 + q.hour % 5} : std::nullopt; },
                {.stage = last_resort});
    courier::subscriber office{"harbour office"};
    office.answer(depth, [](const DepthAsked& q) { return 2 + q.hour % 5; });
    std::puts("the harbour office, else the copy on disk");
    show(depth, 13);
    office.pause(); // its line is down
    show(depth, 3);
    show(depth, 13);
    depth.set_default(1);
    std::puts("else what is safe to assume");
    show(depth, 13);

    courier::query<KeeperAsked> keeper{"watch.keeper", "nobody"};
    std::printf("on watch: %s\n", *keeper.ask({}));
    const courier::subscription anna = keeper.answer([] { return "Anna"; });
    const courier::subscription bela = keeper.answer([] { return "Bela"; }); // refused: there is one
    std::printf("on watch: %s; a second answerer: %s\n", *keeper.ask({}), bela.live() ? "taken" : "refused");
}
