// expect: courier: this handler cannot take this channel's payload
// within: 12 lines
#include "reef.hpp"

int main() {
    courier::channel<Moored> moored{"harbour.moored"};
    courier::subscriber in{"logbook"};
    in.subscribe(moored, [](Moored& m) { m.boat = 0; });
}
