// A game module; MODULE_VERSION tells its builds apart.
#include "game.hpp"

#include <courier/modules.hpp>
#include <courier/publisher.hpp>
#include <courier/stage.hpp>
#include <courier/subscriber.hpp>

#include <memory>

namespace {

constexpr courier::stage early = courier::before(courier::ordinary, "early");

struct bell {
    explicit bell(game::host& host) : host_(host), ring_(host.rang, "bell") {
        in_.subscribe<&bell::on_moored>(host.moored, *this);
        in_.subscribe(host.moored,
                      [this](const game::Moored& m) { host_.heard.push_back("early " + std::to_string(m.boat)); },
                      {.stage = early});
        in_.subscribe(host.match.channel<game::Hailed>().at("north quay"), [] {});
        in_.answer(host.match.query<game::VersionAsked>(), [] { return MODULE_VERSION; });
        in_.subscribe(host.match.channel<game::Rang>(), [this] { host_.heard.emplace_back("rang"); });
    }

    void on_moored(const game::Moored& m) {
        host_.heard.push_back("v" + std::to_string(MODULE_VERSION) + " boat " + std::to_string(m.boat));
        ring_.publish({.times = MODULE_VERSION});
    }

    game::host& host_;
    courier::publisher<game::Rang> ring_;
    courier::subscriber in_{"bell of the module"};
};

std::unique_ptr<bell> the_bell;

} // namespace

void module_start(game::host& host) {
    the_bell = std::make_unique<bell>(host);
}

void module_stop() {
    the_bell.reset();
}
