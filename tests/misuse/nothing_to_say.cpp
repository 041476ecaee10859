// expect: courier: this channel.s payload has fields
// within: 12 lines
#include "reef.hpp"

int main() {
    courier::channel<Moored> moored{"harbour.moored"};
    moored.publish();
}
