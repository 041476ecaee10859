// expect: courier: one payload is published, with its fields in braces
// within: 10 lines
#include "reef.hpp"

int main() {
    courier::channel<Moored> moored{"harbour.moored"};
    moored.publish(1, 2);
}
