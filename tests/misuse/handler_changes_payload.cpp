// expect: courier: this source cannot call this handler
#include "reef.hpp"

#include <courier/channel.hpp>
#include <courier/subscriber.hpp>

int main() {
    courier::channel<Moored> moored{"harbour.moored"};
    courier::subscriber in{"logbook"};
    in.subscribe(moored, [](Moored& m) { m.boat = 0; });
}
