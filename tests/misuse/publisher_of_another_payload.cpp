// expect: courier: this channel carries another payload than the publisher
// within: 10 lines
#include "reef.hpp"

int main() {
    courier::channel<Moored> moored{"harbour.moored"};
    const courier::publisher<Bitten> publishes{moored};
}
