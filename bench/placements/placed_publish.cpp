// Publishing and the loop by hand, compiled several times in different places:
// PLACE bytes of padding come before them, or loops are aligned in another way.
#include "handlers.hpp"

#include "../paired.hpp"

#include <courier/channel.hpp>
#include <courier/subscriber.hpp>

#include <cstddef>
#include <memory>
#include <string>
#include <vector>

#define PLACE_TEXT(x) PLACE_TEXT_OF(x)
#define PLACE_TEXT_OF(x) #x
asm(".text\n.skip " PLACE_TEXT(PLACE) ", 0x90\n");

namespace bench {

namespace {

struct harbour {
    explicit harbour(std::size_t count) : theirs(count), mine(count) {
        for (std::size_t i = 0; i < count; ++i) {
            raw.push_back(aligned_listener(theirs[i]));
            subscribe_aligned(in, bitten, mine[i]);
        }
    }

    std::vector<Barge> theirs;
    std::vector<Barge> mine;
    std::vector<raw_entry> raw;
    Bitten payload{.barge = 1, .crates = 2};
    courier::channel<Bitten> bitten{"barges.bitten"};
    courier::subscriber in{"barges"};
};

[[gnu::noinline]] void by_hand(harbour& h) {
    const Bitten& payload = h.payload;
    for (const raw_entry& e : h.raw) {
        e.call(e.object, payload);
    }
}

[[gnu::noinline]] void published(harbour& h) {
    h.bitten.publish(h.payload);
}

} // namespace

namespace {

[[maybe_unused]] const bool here = [] {
    for (const std::size_t count : {1, 8, 64, 1000}) {
        compare(std::string("placed/") + PLACE_NAME + "/" + std::to_string(count),
                std::max<long>(1, 20000 / static_cast<long>(count + 3)), [count] {
                    auto h = std::make_shared<harbour>(count);
                    auto baseline = [h] { by_hand(*h); };
                    auto ours = [h] { published(*h); };
                    return std::make_shared<both<decltype(baseline), decltype(ours)>>(baseline, ours);
                });
    }
    return true;
}();

} // namespace

} // namespace bench
