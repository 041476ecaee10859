// A debug build is to have the checked library, and any other the one for release.
#include <courier/channel.hpp>

#include <string_view>

struct Moored {
    int boat;
};

int main(int argc, char** argv) {
    courier::channel<Moored> moored{"moored"};
    int heard = 0;
    const auto s = moored.subscribe([&heard] { ++heard; });
    moored.publish({.boat = 3});
    const bool is_debug = argc > 1 && std::string_view{argv[1]} == "Debug";
    return heard == 1 && courier::checked_build == is_debug ? 0 : 1;
}
