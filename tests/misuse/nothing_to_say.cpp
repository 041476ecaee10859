// expect: courier: this channel.s payload has fields
#include "reef.hpp"

#include <courier/channel.hpp>

int main() {
    courier::channel<Moored> moored{"harbour.moored"};
    moored.publish();
}
