// What ledgers cost: compiled in and detached, and attached.
#include "ledger_side.hpp"
#include "paired.hpp"
#include "registrations.hpp"

#include <memory>
#include <string>
#include <utility>

namespace bench {

namespace {

struct sides {
    std::unique_ptr<published_side> first;
    std::unique_ptr<published_side> second;
};

template <class Make>
void compare_sides(const std::string& name, long each, Make make) {
    compare(name, 20, [=] {
        auto kept = std::make_shared<sides>(make());
        auto baseline = [kept, each] { kept->first->publish(each); };
        auto ours = [kept, each] { kept->second->publish(each); };
        return std::make_shared<both<decltype(baseline), decltype(ours)>>(
            both<decltype(baseline), decltype(ours)>{baseline, ours});
    });
}

} // namespace

void register_ledgers() {
    for (const std::size_t count : {std::size_t{1}, std::size_t{8}, std::size_t{64}}) {
        const long each = 20000 / static_cast<long>(count + 10);
        compare_sides("ledger detached/without ledgers/" + std::to_string(count), each, [count] {
            return sides{without_ledgers(count), with_ledgers(count)};
        });
        compare_sides("ledger attached/without ledgers/" + std::to_string(count), each, [count] {
            sides made{without_ledgers(count), with_ledgers(count)};
            made.second->attach();
            return made;
        });
    }
}

} // namespace bench
