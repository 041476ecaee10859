// expect: courier: this handler cannot take this channel's payload
#include <courier/courier.hpp>
struct Moored {
    int boat;
};
int main() {
    courier::channel<Moored> moored{"harbour.moored"};
    courier::subscriber in{"logbook"};
    in.subscribe(moored, [](Moored& m) { m.boat = 0; });
}
