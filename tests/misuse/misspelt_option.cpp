// expect: courier: options are delivery_options
// within: 12 lines
#include "reef.hpp"

int main() {
    courier::channel<Moored> moored{"harbour.moored"};
    courier::subscriber in{"logbook"};
    in.subscribe(moored, [] {}, {.time = 1});
}
