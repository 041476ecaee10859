// Publishing, against four hand-written ways.
#include "baselines.hpp"
#include "paired.hpp"
#include "registrations.hpp"

#include <courier/channel.hpp>
#include <courier/publisher.hpp>
#include <courier/subscriber.hpp>

#include <algorithm>
#include <functional>
#include <memory>
#include <string>
#include <typeindex>
#include <vector>

namespace bench {

namespace {

/// Everything both sides of one comparison need; each side has its own barges.
struct scene {
    explicit scene(std::size_t count) : theirs(count), mine(count) {}

    std::vector<Barge> theirs;
    std::vector<Barge> mine;
    std::vector<raw_entry> raw;
    std::vector<std::unique_ptr<listener>> listeners;
    functions std_functions;
    function_map by_type;
    Bitten payload{.barge = 1, .crates = 2};
    courier::channel<Bitten> bitten{"barges.bitten"};
    courier::subscriber in{"barges"};

    void subscribe_lambdas() {
        for (Barge& barge : mine) {
            in.subscribe(bitten, [b = &barge](const Bitten& e) { b->on_bitten(e); });
        }
    }
    void subscribe_members() {
        for (Barge& barge : mine) {
            in.subscribe<&Barge::on_bitten>(bitten, barge);
        }
    }
    void fill_baselines() {
        for (Barge& barge : theirs) {
            raw.push_back(raw_listener(barge));
            listeners.push_back(virtual_listener(barge));
            std_functions.push_back(function_listener(barge));
            by_type[typeid(Bitten)].push_back(function_listener(barge));
        }
        by_type[typeid(Bitten)];
        by_type[typeid(Barge)]; // a map with more than one type in it
    }
};

template <class Baseline, class Ours>
struct two_sides {
    std::shared_ptr<void> keep;
    Baseline baseline;
    Ours ours;
};

template <class MakeBaseline>
void publish_to(const std::string& name, std::size_t count, bool members, MakeBaseline make_baseline) {
    const long times = std::max<long>(1, 20000 / static_cast<long>(count + 3));
    compare(name + "/" + std::to_string(count), times, [=] {
        auto s = std::make_shared<scene>(count);
        s->fill_baselines();
        members ? s->subscribe_members() : s->subscribe_lambdas();
        auto baseline = make_baseline(s.get());
        auto ours = [at = s.get()] { at->bitten.publish(at->payload); };
        return std::make_shared<two_sides<decltype(baseline), decltype(ours)>>(s, baseline, ours);
    });
}

auto raw_side(scene* s) {
    return [s] {
        const Bitten& payload = s->payload;
        for (const raw_entry& e : s->raw) {
            e.call(e.object, payload);
        }
    };
}

} // namespace

void register_publish() {
    for (const std::size_t count : {0, 1, 4, 8, 64, 1000, 100000}) {
        publish_to("publish/raw array", count, false, raw_side);
    }
    for (const std::size_t count : {0, 1, 4, 8, 64, 1000, 100000}) {
        publish_to("publish/virtual listeners", count, false, [](scene* s) {
            return [s] {
                const Bitten& payload = s->payload;
                for (const auto& l : s->listeners) {
                    l->on_bitten(payload);
                }
            };
        });
    }
    for (const std::size_t count : {0, 1, 4, 8, 64, 1000, 100000}) {
        publish_to("publish/std::function", count, false, [](scene* s) {
            return [s] {
                const Bitten& payload = s->payload;
                for (const auto& f : s->std_functions) {
                    f(payload);
                }
            };
        });
    }
    for (const std::size_t count : {0, 1, 4, 8, 64, 1000, 100000}) {
        publish_to("publish/map by type", count, false, [](scene* s) {
            return [s] {
                const auto found = s->by_type.find(typeid(Bitten));
                const Bitten& payload = s->payload;
                for (const auto& f : found->second) {
                    f(payload);
                }
            };
        });
    }
    for (const std::size_t count : {1, 8, 64, 1000}) {
        publish_to("publish, member functions/raw array", count, true, raw_side);
    }
}

namespace {

constexpr int deep = 4;

/// Four channels, the handler of each publishing on the next; against four
/// arrays that do the same.
struct nested_scene {
    Barge theirs;
    Barge mine;
    Bitten payload{.barge = 1, .crates = 2};
    struct level {
        nested_scene* scene;
        int number;
        std::vector<raw_entry> raw;
    };
    level levels[deep];
    std::vector<std::unique_ptr<courier::channel<Bitten>>> channels;
    courier::subscriber in{"nested"};

    nested_scene() {
        for (int i = 0; i < deep; ++i) {
            channels.push_back(std::make_unique<courier::channel<Bitten>>("level"));
            levels[i].scene = this;
            levels[i].number = i;
        }
        for (int i = 0; i + 1 < deep; ++i) {
            in.subscribe(
                *channels[static_cast<std::size_t>(i)],
                [next = channels[static_cast<std::size_t>(i) + 1].get()](const Bitten& b) { next->publish(b); });
            levels[i].raw.push_back({[](void* object, const Bitten& b) {
                                         for (const raw_entry& e : static_cast<level*>(object)->raw) {
                                             e.call(e.object, b);
                                         }
                                     },
                                     &levels[i + 1]});
        }
        in.subscribe(*channels.back(), [this](const Bitten& b) { mine.on_bitten(b); });
        levels[deep - 1].raw.push_back(raw_listener(theirs));
    }
};

} // namespace

void register_nested() {
    compare("nested publish, 4 deep/raw arrays", 2000, [] {
        auto s = std::make_shared<nested_scene>();
        auto baseline = [at = s.get()] {
            const Bitten& payload = at->payload;
            for (const raw_entry& e : at->levels[0].raw) {
                e.call(e.object, payload);
            }
        };
        auto ours = [at = s.get()] { at->channels[0]->publish(at->payload); };
        return std::make_shared<two_sides<decltype(baseline), decltype(ours)>>(s, baseline, ours);
    });
}

} // namespace bench
