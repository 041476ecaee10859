// expect: courier: a publisher has the right to publish only
// within: 10 lines
#include "reef.hpp"

int main() {
    courier::channel<Moored> moored{"harbour.moored"};
    const courier::publisher<Moored> publishes{moored};
    courier::subscriber in{"logbook"};
    in.subscribe(publishes, [] {});
}
