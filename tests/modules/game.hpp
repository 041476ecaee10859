// What the host offers to its modules.
#pragma once

#include <courier/channel.hpp>
#include <courier/hub.hpp>

#include <string>
#include <vector>

namespace game {

struct Moored {
    int boat;
};
struct Rang {
    int times;
};

struct Hailed {
    using address = std::string;
};
struct VersionAsked {
    using answer = int;
};

struct host {
    courier::hub match{"match"};
    courier::channel<Moored> moored{"harbour.moored"};
    courier::channel<Rang> rang{"bell.rang"};
    std::vector<std::string> heard;
};

} // namespace game

extern "C" {
/// Subscribes and publishes on the host's channels.
void module_start(game::host& host);
/// Ends what `module_start` began; a careless module does nothing here.
void module_stop();
}
