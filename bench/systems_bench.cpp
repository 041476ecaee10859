// Updating systems, and entering phases.
#include "paired.hpp"
#include "registrations.hpp"

#include <courier/channel.hpp>
#include <courier/phases.hpp>
#include <courier/subscriber.hpp>
#include <courier/systems.hpp>

#include <cstddef>
#include <functional>
#include <memory>
#include <string>
#include <utility>
#include <vector>

namespace bench {

namespace {

constexpr std::size_t system_count = 1000;

/// A thousand types of system that do next to nothing.
template <std::size_t>
struct winch {
    void update(courier::game_time step) { turned += step.count(); }
    long turned = 0;
};

template <class Sequence>
struct functions_of;
template <std::size_t... I>
struct functions_of<std::index_sequence<I...>> {
    functions_of() { (add<I>(), ...); }
    template <std::size_t N>
    void add() {
        auto made = std::make_shared<winch<N>>();
        updates.emplace_back([made](courier::game_time step) { made->update(step); });
    }
    void operator()() {
        for (const auto& update : updates) {
            update(courier::game_time(16));
        }
    }
    std::vector<std::function<void(courier::game_time)>> updates;
};

template <class Sequence>
struct systems_of;
template <std::size_t... I>
struct systems_of<std::index_sequence<I...>> {
    systems_of() { (static_cast<void>(all.get<winch<I>>()), ...); }
    void operator()() { all.update(courier::game_time(16)); }
    courier::systems all{"winches"};
};

enum class watch { calm, storm };
struct Moved {
    int from;
    int to;
};

struct publishing {
    explicit publishing(std::size_t listeners) : heard(listeners) {
        for (int& h : heard) {
            in.subscribe(moved, [&h] { ++h; });
        }
    }
    void operator()() { moved.publish({.from = 0, .to = 1}); }

    std::vector<int> heard;
    courier::channel<Moved> moved{"moved"};
    courier::subscriber in{"board"};
};

/// Each move enters a phase that as many listen to.
struct entering {
    explicit entering(std::size_t listeners) : heard(listeners) {
        for (int& h : heard) {
            in.subscribe(hours.entered(watch::calm), [&h] { ++h; });
            in.subscribe(hours.entered(watch::storm), [&h] { ++h; });
        }
    }
    void operator()() { hours.move_to(hours.is(watch::calm) ? watch::storm : watch::calm); }

    std::vector<int> heard;
    courier::phases<watch> hours{"watch", watch::calm, {{watch::calm, {watch::storm}}, {watch::storm, {watch::calm}}}};
    courier::subscriber in{"board"};
};

} // namespace

void register_systems() {
    using numbers = std::make_index_sequence<system_count>;
    compare_times("systems/std::function calls/1000", 20, 200,
                  [] { return std::make_unique<both<functions_of<numbers>, systems_of<numbers>>>(); });
    for (const std::size_t listeners : {std::size_t{8}, std::size_t{64}, std::size_t{1000}}) {
        compare_times("entering a phase/publishing/" + std::to_string(listeners), listeners == 1000 ? 50 : 500, 200,
                      [listeners] {
                          return std::unique_ptr<both<publishing, entering>>(
                              new both<publishing, entering>{publishing(listeners), entering(listeners)});
                      });
    }
}

} // namespace bench
