// expect: courier: this handler cannot take this channel's payload
// within: 12 lines
#include "reef.hpp"

int main() {
    courier::channel<Moored> moored{"harbour.moored"};
    const auto s = moored.subscribe([](const Bitten&) {});
}
