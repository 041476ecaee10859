// Publishes so many times in one way, to be run under callgrind.
// Usage: instructions WAY SUBSCRIBERS PUBLISHES
//   raw       a loop by hand over an array of functions and objects
//   courier   publish()
//   nested    the same in a handler
//   verdict   one of them may stop the rest, and does not
//   attached  with a ledger that has the channel's books
//   address   to one of so many addresses
#include "baselines.hpp"

#include <courier/addressed_channel.hpp>
#include <courier/channel.hpp>
#include <courier/ledger.hpp>
#include <courier/subscriber.hpp>

#include <cstdlib>
#include <optional>
#include <string_view>
#include <vector>

namespace {

using bench::Bitten;

struct DuskCame {
    int times;
};

class night {
public:
    night(std::string_view way, int subscribers) : way_(way), barges_(static_cast<std::size_t>(subscribers)) {
        for (bench::Barge& barge : barges_) {
            entries_.push_back(bench::raw_listener(barge));
            in_.subscribe(bitten_, [b = &barge](const Bitten& e) { b->on_bitten(e); });
            in_.subscribe(hails_.at(static_cast<int>(entries_.size())),
                          [b = &barge](const Bitten& e) { b->on_bitten(e); });
        }
        if (way == "verdict") {
            in_.subscribe(bitten_, [](const Bitten&) { return courier::verdict::go_on; });
        }
        if (way == "attached") {
            ledger_.emplace("night", courier::ledger_options{.time_every = 0}); // what is timed is chance
            ledger_->attach(bitten_);
        }
        in_.subscribe(dusk_, [this](const DuskCame& d) { publish(d.times); });
    }

    // These loops are functions of their own, so that the counts do not depend on what else is kept in registers.
    [[gnu::noinline]] void run(int times) {
        if (way_ == "raw") {
            for (; times > 0; --times) {
                for (const bench::raw_entry& e : entries_) {
                    e.call(e.object, payload_);
                }
                asm volatile("" ::: "memory");
            }
        } else if (way_ == "nested") {
            dusk_.publish({.times = times});
        } else if (way_ == "address") {
            for (; times > 0; --times) {
                hails_.publish_to(1, payload_);
            }
        } else {
            publish(times);
        }
    }

private:
    [[gnu::noinline]] void publish(int times) {
        for (; times > 0; --times) {
            bitten_.publish(payload_);
            asm volatile("" ::: "memory");
        }
    }

    std::string_view way_;
    std::vector<bench::Barge> barges_;
    std::vector<bench::raw_entry> entries_;
    Bitten payload_{.barge = 1, .crates = 2};
    courier::channel<Bitten> bitten_{"barges.bitten"};
    courier::addressed_channel<Bitten, int> hails_{"harbour.hailed"};
    courier::channel<DuskCame> dusk_{"watch.dusk"};
    std::optional<courier::ledger> ledger_;
    courier::subscriber in_{"barges"};
};

} // namespace

int main(int argc, char** argv) {
    if (argc != 4) {
        return 2;
    }
    night one(argv[1], std::atoi(argv[2]));
    one.run(std::atoi(argv[3]));
}
