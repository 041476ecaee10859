// What a reaction by wiring costs, and loading many.
#include "paired.hpp"
#include "registrations.hpp"

#include <courier/channel.hpp>
#include <courier/subscriber.hpp>
#include <courier/wiring/wiring.hpp>

#include <toml++/toml.h>

#include <chrono>
#include <cstdlib>
#include <filesystem>
#include <fstream>
#include <memory>
#include <string>
#include <thread>
#include <vector>

namespace reef_bench {

struct Sighted {
    int wyrm;
    int bearing;
    int distance;
};
struct Sweep {
    int wyrm;
    int bearing;
};

} // namespace reef_bench

namespace bench {

namespace {

using reef_bench::Sighted;
using reef_bench::Sweep;

/// A lamp that somebody swings.
struct wired_scene {
    wired_scene() {
        wires.offer(sighted);
        wires.action<Sweep>(lamp, "lamp.sweep", [this](const Sweep& s) { swept += s.wyrm + s.bearing; });
        wires.load_text("reef.toml", R"(
[[wire]]
when = "wyrms.sighted"
if = { distance = { at_most = 4 } }
do = { action = "lamp.sweep", parameters = { wyrm = "{wyrm}", bearing = "{bearing}" } }
)");
        by_hand.subscribe(seen, [this](const Sighted& s) {
            if (s.distance <= 4) {
                const Sweep what{s.wyrm, s.bearing};
                swept += what.wyrm + what.bearing;
            }
        });
        lamp.subscribe(sweep, [this](const Sweep& s) { swept += s.wyrm + s.bearing; });
        between.subscribe(seen_afar, [this](const Sighted& s) {
            if (s.distance <= 4) {
                sweep.publish({s.wyrm, s.bearing});
            }
        });
    }
    courier::channel<Sighted> sighted{"wyrms.sighted"};
    courier::channel<Sighted> seen{"wyrms.seen"};
    courier::subscriber lamp{"lamp"};
    courier::subscriber by_hand{"lamp by hand"};
    courier::channel<Sighted> seen_afar{"wyrms.seen_afar"};
    courier::channel<Sweep> sweep{"lamp.sweep"};
    courier::subscriber between{"between"}; ///< knows neither wyrms nor the lamp
    courier::wiring wires{"reef"};
    Sighted payload{7, 90, 3};
    long swept = 0;
};

void register_reaction() {
    compare("wiring/a lambda/1", 20000, [] {
        auto s = std::make_shared<wired_scene>();
        auto baseline = [s] { s->seen.publish(s->payload); };
        auto ours = [s] { s->sighted.publish(s->payload); };
        return std::make_shared<both<decltype(baseline), decltype(ours)>>(
            both<decltype(baseline), decltype(ours)>{baseline, ours});
    });
}

void register_apart() {
    compare("wiring/a lambda that publishes/1", 20000, [] {
        auto s = std::make_shared<wired_scene>();
        auto baseline = [s] { s->seen_afar.publish(s->payload); };
        auto ours = [s] { s->sighted.publish(s->payload); };
        return std::make_shared<both<decltype(baseline), decltype(ours)>>(
            both<decltype(baseline), decltype(ours)>{baseline, ours});
    });
}

constexpr int many = 10000;
constexpr int channels = 50; ///< on which they wait

/// One wire, of a file of many.
std::string wire_text(int number, int bearing) {
    return "[[wire]]\nname = \"wire " + std::to_string(number) + "\"\nwhen = \"wyrms.sighted." +
           std::to_string(number % channels) + "\"\nif = { distance = { at_most = " + std::to_string(number % 50) +
           " }, wyrm = " + std::to_string(number) +
           " }\ndo = { action = \"lamp.sweep\", parameters = { wyrm = \"{wyrm}\", bearing = " +
           std::to_string(bearing) + " } }\n\n";
}

struct many_scene {
    many_scene() {
        for (int i = 0; i < many; ++i) {
            text += wire_text(i, i % 360);
        }
        for (int i = 0; i < channels; ++i) {
            sighted.push_back(std::make_unique<courier::channel<Sighted>>("wyrms.sighted." + std::to_string(i)));
            wires.offer(*sighted.back());
        }
        wires.action<Sweep>(lamp, "lamp.sweep", [this](const Sweep& s) { swept += s.wyrm; });
    }
    std::string text;
    std::vector<std::unique_ptr<courier::channel<Sighted>>> sighted;
    courier::subscriber lamp{"lamp"};
    courier::wiring wires{"reef"};
    long swept = 0;
};

double nanoseconds_since(std::chrono::steady_clock::time_point begin) {
    return std::chrono::duration<double, std::nano>(std::chrono::steady_clock::now() - begin).count();
}

void register_loading() {
    compare_own_times("wiring/parsing alone/10000", 15, [] {
        auto s = std::make_shared<many_scene>();
        auto baseline = [s] {
            const auto begin = std::chrono::steady_clock::now();
            s->swept += static_cast<long>(toml::parse(s->text).size());
            return nanoseconds_since(begin);
        };
        auto ours = [s] {
            const auto begin = std::chrono::steady_clock::now();
            s->wires.load_text("reef.toml", s->text);
            const double taken = nanoseconds_since(begin);
            s->wires.clear();
            return taken;
        };
        return std::make_shared<both<decltype(baseline), decltype(ours)>>(
            both<decltype(baseline), decltype(ours)>{baseline, ours});
    });
}

/// Two files that take turns; ten of their wires are different.
struct changing_scene : many_scene {
    Sighted payload{7, 90, 3};
    changing_scene() {
        std::string other;
        for (int i = 0; i < many; ++i) {
            const bool differs = i % (many / 10) == 0;
            other += wire_text(i, differs ? 359 : i % 360);
        }
        std::ofstream(files[0]) << text;
        std::ofstream(files[1]) << other;
        wires.load(files[0]);
        in.subscribe(told, [this] { ++heard; });
    }
    ~changing_scene() {
        std::filesystem::remove(files[0]);
        std::filesystem::remove(files[1]);
    }
    std::filesystem::path files[2] = {std::filesystem::temp_directory_path() / "courier_bench_one.toml",
                                      std::filesystem::temp_directory_path() / "courier_bench_other.toml"};
    courier::channel<Sighted> told{"wyrms.told"};
    courier::subscriber in{"lookout"};
    long heard = 0;
    int turn = 0;
};

void register_reloading() {
    compare_own_times("wiring/delivering 10000/reload", 15, [] {
        auto s = std::make_shared<changing_scene>();
        auto baseline = [s] {
            const auto begin = std::chrono::steady_clock::now();
            for (int i = 0; i < many; ++i) {
                s->told.publish(s->payload);
                barrier();
            }
            return nanoseconds_since(begin);
        };
        auto ours = [s] {
            const auto begin = std::chrono::steady_clock::now();
            courier::wiring_draft next = s->wires.draft({s->files[++s->turn % 2]});
            const double before = nanoseconds_since(begin);
            std::thread([&next] { next.prepare(); }).join();
            const auto again = std::chrono::steady_clock::now();
            const courier::wiring_change change = s->wires.take(next);
            const double after = nanoseconds_since(again);
            if (change.added != 10 || change.kept != many - 10) {
                std::abort(); // it measures something else
            }
            return before + after;
        };
        return std::make_shared<both<decltype(baseline), decltype(ours)>>(
            both<decltype(baseline), decltype(ours)>{baseline, ours});
    });
}

} // namespace

void register_wiring() {
    register_reaction();
    register_apart();
    register_loading();
    register_reloading();
}

} // namespace bench
