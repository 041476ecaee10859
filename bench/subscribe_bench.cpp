// Coming and going in large populations.
#include "baselines.hpp"
#include "paired.hpp"
#include "registrations.hpp"

#include <courier/channel.hpp>
#include <courier/subscription.hpp>

#include <algorithm>
#include <memory>
#include <numeric>
#include <random>
#include <string>
#include <utility>
#include <vector>

namespace bench {

namespace {

/// One leaves, at random or the oldest, and one comes, in a population of a fixed size.
class turnover {
public:
    explicit turnover(std::size_t population, bool oldest_first = false)
        : all_(population), oldest_first_(oldest_first) {
        for (auto& s : all_) {
            s = subscribe();
        }
    }
    void operator()() {
        auto& s = all_[(oldest_first_ ? next_++ : random_()) % all_.size()];
        s.end();
        s = subscribe();
    }
    [[nodiscard]] double bytes_each() const {
        return static_cast<double>(bitten_.bytes() + all_.size() * sizeof(courier::subscription)) /
               static_cast<double>(all_.size());
    }

private:
    courier::subscription subscribe() {
        return bitten_.subscribe([b = &barge_](const Bitten& e) { b->on_bitten(e); });
    }

    Barge barge_;
    courier::channel<Bitten> bitten_{"barges.bitten"};
    std::vector<courier::subscription> all_;
    bool oldest_first_;
    std::size_t next_ = 0;
    std::minstd_rand random_{7};
};

class searched_turnover {
public:
    explicit searched_turnover(std::size_t population) : ids_(population) {
        for (int& id : ids_) {
            id = functions_.add(function_listener(barge_));
        }
    }
    void operator()() {
        int& id = ids_[random_() % ids_.size()];
        functions_.remove(id);
        id = functions_.add(function_listener(barge_));
    }

private:
    Barge barge_;
    searched_functions functions_;
    std::vector<int> ids_;
    std::minstd_rand random_{7};
};

/// The least that a random leaver costs in memory: from a handle to a record
/// to a cell, each somewhere else. What its growth is, nobody can undercut.
class bare_walk {
public:
    explicit bare_walk(std::size_t population) : records_(population), cells_(population) {
        std::vector<std::size_t> order(population);
        std::iota(order.begin(), order.end(), std::size_t{0});
        std::shuffle(order.begin(), order.end(), random_);
        for (std::size_t i = 0; i < population; ++i) {
            records_[i].cell = order[(i * 7919) % population];
            handles_.push_back(&records_[order[i]]);
        }
    }
    void operator()() {
        record& r = *handles_[random_() % handles_.size()];
        ++cells_[r.cell].first;
        ++r.filler[0];
    }

private:
    struct record {
        std::size_t cell = 0;
        char filler[48] = {};
    };
    std::vector<record> records_;
    std::vector<std::pair<long, long>> cells_;
    std::vector<record*> handles_;
    std::minstd_rand random_{7};
};

template <class Baseline, class Ours = turnover>
struct sides {
    Baseline baseline;
    Ours ours;
};

} // namespace

void register_subscribe() {
    for (const std::size_t population : {1000, 10000, 100000}) {
        const long times = population == 100000 ? 40 : 200;
        compare("subscribe + unsubscribe/searched std::function/" + std::to_string(population), times, [=] {
            return std::unique_ptr<sides<searched_turnover>>(
                new sides<searched_turnover>{searched_turnover(population), turnover(population)});
        });
    }
    for (const std::size_t population : {10000, 100000}) {
        compare("subscribe + unsubscribe, growth/itself at 1000/" + std::to_string(population), 2000, [=] {
            return std::unique_ptr<sides<turnover>>(new sides<turnover>{turnover(1000), turnover(population)});
        });
    }
    for (const std::size_t population : {10000, 100000}) {
        compare("subscribe + unsubscribe, oldest first, growth/itself at 1000/" + std::to_string(population), 2000,
                [=] {
                    return std::unique_ptr<sides<turnover>>(
                        new sides<turnover>{turnover(1000, true), turnover(population, true)});
                });
        compare("bare walk through memory, growth/itself at 1000/" + std::to_string(population), 20000, [=] {
            return std::unique_ptr<sides<bare_walk, bare_walk>>(
                new sides<bare_walk, bare_walk>{bare_walk(1000), bare_walk(population)});
        });
    }
    for (const std::size_t population : {1000, 10000, 100000}) {
        benchmark::RegisterBenchmark(("bytes per subscription/" + std::to_string(population)).c_str(),
                                     [population](benchmark::State& state) {
                                         for ([[maybe_unused]] auto unused : state) {}
                                         state.counters["bytes"] = turnover(population).bytes_each();
                                     })
            ->Iterations(1);
    }
}

} // namespace bench
