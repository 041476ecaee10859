// expect: courier: this publisher carries another payload type
#include "reef.hpp"

#include <courier/channel.hpp>
#include <courier/publisher.hpp>

int main() {
    courier::channel<Moored> moored{"harbour.moored"};
    const courier::publisher<Moored> barge{moored};
    barge.publish(Bitten{1});
}
