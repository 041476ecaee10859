// A module that brings a copy of the library of its own.
#include "game.hpp"

#include <courier/subscription.hpp>

void module_start(game::host& host) {
    const courier::subscription s = host.moored.subscribe([] {});
}

void module_stop() {}
