// Finding the channel, the address, the answer.
#include "baselines.hpp"
#include "paired.hpp"
#include "registrations.hpp"

#include <courier/addressed_channel.hpp>
#include <courier/hub.hpp>
#include <courier/publisher.hpp>
#include <courier/query.hpp>
#include <courier/subscriber.hpp>

#include <algorithm>
#include <cstddef>
#include <memory>
#include <numeric>
#include <optional>
#include <random>
#include <string>
#include <unordered_map>
#include <utility>
#include <vector>

namespace bench {

namespace {

/// A channel of its own, with so many subscribers.
struct local_side {
    explicit local_side(std::size_t count) : barges(count) {
        for (Barge& barge : barges) {
            in.subscribe(bitten, [b = &barge](const Bitten& e) { b->on_bitten(e); });
        }
    }
    void operator()() { bitten.publish(payload); }

    Bitten payload{.barge = 1, .crates = 2};
    std::vector<Barge> barges;
    courier::channel<Bitten> bitten{"barges.bitten"};
    courier::subscriber in{"barges"};
};

/// The same by way of a hub that has other channels too.
struct hub_side {
    explicit hub_side(std::size_t count) : barges(count), out(match.channel<Bitten>(), "wyrms") {
        static_cast<void>(match.channel<Barge>());
        for (Barge& barge : barges) {
            in.subscribe(match.channel<Bitten>(), [b = &barge](const Bitten& e) { b->on_bitten(e); });
        }
    }

    Bitten payload{.barge = 1, .crates = 2};
    std::vector<Barge> barges;
    courier::hub match{"match"};
    courier::publisher<Bitten> out;
    courier::subscriber in{"barges"};
};

/// The channel itself, and a publisher that was resolved from the hub; one and
/// the same channel, since where two happen to lie in memory would decide.
struct resolved_sides {
    explicit resolved_sides(std::size_t count) : scene(count) {}
    hub_side scene;
    struct {
        hub_side* at;
        courier::channel<Bitten>* channel;
        void operator()() { channel->publish(at->payload); }
    } baseline{&scene, &scene.match.channel<Bitten>()};
    struct {
        hub_side* at;
        void operator()() { at->out.publish(at->payload); }
    } ours{&scene};
};
struct looked_up_side : hub_side {
    using hub_side::hub_side;
    void operator()() { match.channel<Bitten>().publish(payload); }
};

/// Addresses in an order that memory cannot follow, the same on all sides.
std::vector<int> random_addresses(std::size_t count) {
    std::vector<int> order(2 * count); // none comes back while caches remember it
    std::minstd_rand random{7};
    for (int& address : order) {
        address = static_cast<int>(random() % count);
    }
    return order;
}

/// One listener at each of so many addresses.
class map_side {
public:
    explicit map_side(std::size_t count) : barges_(count), order_(random_addresses(count)) {
        for (std::size_t i = 0; i < count; ++i) {
            at_[static_cast<int>(i)].push_back(function_listener(barges_[i]));
        }
    }
    void operator()() {
        const auto found = at_.find(order_[next_++ % order_.size()]);
        if (found != at_.end()) {
            for (const auto& f : found->second) {
                f(payload_);
            }
        }
    }

private:
    Bitten payload_{.barge = 1, .crates = 2};
    std::vector<Barge> barges_;
    std::vector<int> order_;
    std::size_t next_ = 0;
    std::unordered_map<int, functions> at_;
};

class address_side {
public:
    explicit address_side(std::size_t count) : barges_(count), order_(random_addresses(count)) {
        for (std::size_t i = 0; i < count; ++i) {
            in_.subscribe(bitten_.at(static_cast<int>(i)), [b = &barges_[i]](const Bitten& e) { b->on_bitten(e); });
        }
    }
    void operator()() { bitten_.publish_to(order_[next_++ % order_.size()], payload_); }
    [[nodiscard]] double bytes_each() const {
        return static_cast<double>(bitten_.bytes()) / static_cast<double>(barges_.size());
    }

private:
    Bitten payload_{.barge = 1, .crates = 2};
    std::vector<Barge> barges_;
    std::vector<int> order_;
    std::size_t next_ = 0;
    courier::addressed_channel<Bitten, int> bitten_{"barges.bitten"};
    courier::subscriber in_{"barges"};
};

/// The least that reaching one listener among many costs in memory: from its
/// number to it, by way of one array, and one call.
class array_side {
public:
    explicit array_side(std::size_t count) : barges_(count), order_(random_addresses(count)) {
        for (Barge& barge : barges_) {
            at_.push_back(raw_listener(barge));
        }
    }
    void operator()() {
        const raw_entry& e = at_[static_cast<std::size_t>(order_[next_++ % order_.size()])];
        e.call(e.object, payload_);
    }

private:
    Bitten payload_{.barge = 1, .crates = 2};
    std::vector<Barge> barges_;
    std::vector<int> order_;
    std::size_t next_ = 0;
    std::vector<raw_entry> at_;
};

struct DepthAsked {
    using answer = int;
    int hour;
};

struct function_asked {
    function_asked() : depth(depth_function(table)) {}
    void operator()() { sum += depth(DepthAsked{3}).value_or(0); }

    static std::function<std::optional<int>(const DepthAsked&)> depth_function(int& table);
    int table = 4;
    long sum = 0;
    std::function<std::optional<int>(const DepthAsked&)> depth;
};

std::function<std::optional<int>(const DepthAsked&)> function_asked::depth_function(int& table) {
    return [&table](const DepthAsked& q) -> std::optional<int> { return table + q.hour; };
}

struct query_asked {
    query_asked() {
        office.answer(depth, [t = &table](const DepthAsked& q) { return *t + q.hour; });
    }
    void operator()() { sum += depth.ask({3}).value_or(0); }

    int table = 4;
    long sum = 0;
    courier::query<DepthAsked> depth{"tides.depth"};
    courier::subscriber office{"office"};
};

template <class Baseline, class Ours>
void compare_sides(const std::string& name, long times, std::size_t baseline_size, std::size_t our_size) {
    compare(name, times, [=] {
        return std::unique_ptr<both<Baseline, Ours>>(new both<Baseline, Ours>{Baseline(baseline_size), Ours(our_size)});
    });
}

} // namespace

void register_routing() {
    for (const std::size_t count : {1, 8}) {
        const std::string size = std::to_string(count);
        compare("hub, resolved publisher/local channel/" + size, 3000,
                [=] { return std::make_unique<resolved_sides>(count); });
        compare_sides<local_side, looked_up_side>("hub, looked up each time/local channel/" + size, 3000, count, count);
    }
    constexpr std::size_t few = 1000;
    constexpr std::size_t many = 1000000;
    compare_sides<map_side, address_side>("publish to an address/unordered_map of functions/1000", 5000, few, few);
    compare_sides<map_side, address_side>("publish to an address/unordered_map of functions/1000000", 5000, many, many);
    compare_sides<address_side, address_side>("publish to an address, growth/itself at 1000/1000000", 5000, few, many);
    compare_sides<map_side, map_side>("unordered_map of functions, growth/itself at 1000/1000000", 5000, few, many);
    compare_sides<array_side, array_side>("array by number, growth/itself at 1000/1000000", 5000, few, many);
    compare("query/std::function", 3000, [] { return std::make_unique<both<function_asked, query_asked>>(); });
    benchmark::RegisterBenchmark("bytes per addressed subscription/1000000", [](benchmark::State& state) {
        for ([[maybe_unused]] auto unused : state) {}
        state.counters["bytes"] = address_side(many).bytes_each();
    })->Iterations(1);
}

} // namespace bench
