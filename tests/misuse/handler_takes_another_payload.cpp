// expect: courier: this source cannot call this handler
#include "reef.hpp"

#include <courier/channel.hpp>

int main() {
    courier::channel<Moored> moored{"harbour.moored"};
    const auto s = moored.subscribe([](const Bitten&) {});
}
