// Publishes so many times in one of two ways, to be run under callgrind.
// Usage: instructions raw|courier SUBSCRIBERS PUBLISHES
#include "baselines.hpp"

#include <courier/channel.hpp>
#include <courier/subscriber.hpp>

#include <cstdlib>
#include <string_view>
#include <vector>

int main(int argc, char** argv) {
    if (argc != 4) {
        return 2;
    }
    const bool raw = std::string_view{argv[1]} == "raw";
    std::vector<bench::Barge> barges(static_cast<std::size_t>(std::atoi(argv[2])));
    std::vector<bench::raw_entry> entries;
    courier::channel<bench::Bitten> bitten{"barges.bitten"};
    courier::subscriber in{"barges"};
    for (bench::Barge& barge : barges) {
        entries.push_back(bench::raw_listener(barge));
        in.subscribe(bitten, [b = &barge](const bench::Bitten& e) { b->on_bitten(e); });
    }
    bench::Bitten payload{.barge = 1, .crates = 2};
    for (int i = std::atoi(argv[3]); i > 0; --i) {
        if (raw) {
            for (const bench::raw_entry& e : entries) {
                e.call(e.object, payload);
            }
        } else {
            bitten.publish(payload);
        }
        asm volatile("" ::: "memory");
    }
}
