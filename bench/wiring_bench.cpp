// What a reaction by wiring costs, and loading many.
#include "paired.hpp"
#include "registrations.hpp"

#include <courier/channel.hpp>
#include <courier/subscriber.hpp>
#include <courier/wiring/wiring.hpp>

#include <toml++/toml.h>

#include <memory>
#include <string>

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
do = { action = "lamp.sweep", with = { wyrm = "{wyrm}", bearing = "{bearing}" } }
)");
        by_hand.subscribe(seen, [this](const Sighted& s) {
            if (s.distance <= 4) {
                const Sweep what{s.wyrm, s.bearing};
                swept += what.wyrm + what.bearing;
            }
        });
    }
    courier::channel<Sighted> sighted{"wyrms.sighted"};
    courier::channel<Sighted> seen{"wyrms.seen"};
    courier::subscriber lamp{"lamp"};
    courier::subscriber by_hand{"lamp by hand"};
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

constexpr int many = 10000;

/// One wire, of a file of many.
std::string wire_text(int number) {
    return "[[wire]]\nname = \"wire " + std::to_string(number) +
           "\"\nwhen = \"wyrms.sighted\"\nif = { distance = { at_most = " + std::to_string(number % 50) +
           " }, wyrm = " + std::to_string(number) +
           " }\ndo = { action = \"lamp.sweep\", with = { wyrm = \"{wyrm}\", bearing = " + std::to_string(number % 360) +
           " } }\n\n";
}

struct many_scene {
    many_scene() {
        for (int i = 0; i < many; ++i) {
            text += wire_text(i);
        }
        wires.offer(sighted);
        wires.action<Sweep>(lamp, "lamp.sweep", [this](const Sweep& s) { swept += s.wyrm; });
    }
    std::string text;
    courier::channel<Sighted> sighted{"wyrms.sighted"};
    courier::subscriber lamp{"lamp"};
    courier::wiring wires{"reef"};
    long swept = 0;
};

void register_loading() {
    compare_times("wiring/parsing alone/10000", 1, 9, [] {
        auto s = std::make_shared<many_scene>();
        auto baseline = [s] { s->swept += static_cast<long>(toml::parse(s->text).size()); };
        auto ours = [s] {
            s->wires.load_text("reef.toml", s->text);
            s->wires.clear();
        };
        return std::make_shared<both<decltype(baseline), decltype(ours)>>(
            both<decltype(baseline), decltype(ours)>{baseline, ours});
    });
}

} // namespace

void register_wiring() {
    register_reaction();
    register_loading();
}

} // namespace bench
