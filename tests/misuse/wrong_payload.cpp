// expect: courier: this channel carries another payload type
#include "reef.hpp"

#include <courier/channel.hpp>

int main() {
    courier::channel<Moored> moored{"harbour.moored"};
    moored.publish(Bitten{1});
}
