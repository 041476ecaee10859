// expect: courier: a condition takes the payload of the channel it is for
#include "reef.hpp"

#include <courier/channel.hpp>

int main() {
    courier::channel<Moored> moored{"harbour.moored"};
    const auto s = moored.subscribe([] {}, {.condition = [](const Bitten&) { return true; }});
}
