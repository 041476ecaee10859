// expect: nothing
#include "reef.hpp"

#include <courier/channel.hpp>

int main() {
    courier::channel<Moored> moored{"harbour.moored"};
    const courier::channel<Moored>& listen_only = moored;
    const auto s = listen_only.subscribe([](const Moored&) {});
    moored.publish({.boat = 3});
}
