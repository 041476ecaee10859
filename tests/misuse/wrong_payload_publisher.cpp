// expect: courier: this publisher carries another payload type
// within: 12 lines
#include "reef.hpp"

int main() {
    courier::channel<Moored> moored{"harbour.moored"};
    const courier::publisher<Moored> barge{moored};
    barge.publish(Bitten{1});
}
