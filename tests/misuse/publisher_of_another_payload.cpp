// expect: courier: this channel carries another payload than the publisher
#include "reef.hpp"

#include <courier/channel.hpp>
#include <courier/publisher.hpp>

int main() {
    courier::channel<Moored> moored{"harbour.moored"};
    const courier::publisher<Bitten> publishes{moored};
}
