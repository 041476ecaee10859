// expect: courier: this channel carries another payload type
// within: 12 lines
#include "reef.hpp"

int main() {
    courier::channel<Moored> moored{"harbour.moored"};
    moored.publish(Bitten{1});
}
