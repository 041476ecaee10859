// A module that is unloaded with its handlers still subscribed.
#include "game.hpp"

#include <courier/modules.hpp>
#include <courier/subscription.hpp>

#include <memory>
#include <new>
#include <string>

namespace {

struct left_behind {
    courier::subscription word;
    courier::subscription state;
    courier::subscription ended_while_publishing;
};

// Memory of the module, which goes with it.
alignas(left_behind) unsigned char forgotten[sizeof(left_behind)];

} // namespace

void module_start(game::host& host) {
    auto* leaked = ::new (forgotten) left_behind; // nobody will ever destroy it
    leaked->word = host.moored.subscribe([&host] { host.heard.emplace_back("careless"); });
    leaked->state = host.moored.subscribe([&host, text = std::make_shared<std::string>("careless"),
                                           own = std::make_shared<courier::channel<game::Rang>>(
                                               "goes with the handler")] { host.heard.push_back(*text); },
                                          {.condition = [](const game::Moored& m) { return m.boat > 0; }});
    leaked->ended_while_publishing =
        host.rang.subscribe([leaked, own = std::make_shared<courier::channel<game::Rang>>("goes with the handler")] {
            leaked->ended_while_publishing.end();
        });
    host.moored.on_failure([](const courier::failure&) {});
}

void module_stop() {}

namespace {

const courier::module_guard guard{"careless_module"};

} // namespace
