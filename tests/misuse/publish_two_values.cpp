// expect: courier: one payload is published, with its fields in braces
#include "reef.hpp"

#include <courier/channel.hpp>

int main() {
    courier::channel<Moored> moored{"harbour.moored"};
    moored.publish(1, 2);
}
