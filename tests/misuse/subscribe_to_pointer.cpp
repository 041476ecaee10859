// expect: courier: give the channel itself instead of a pointer to it
// within: 10 lines
#include "reef.hpp"

int main() {
    courier::channel<Moored> moored{"harbour.moored"};
    courier::subscriber in{"logbook"};
    in.subscribe(&moored, [] {});
}
