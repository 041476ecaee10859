// expect: courier: a publisher has the right to publish only
#include "reef.hpp"

#include <courier/channel.hpp>
#include <courier/publisher.hpp>
#include <courier/subscriber.hpp>

int main() {
    courier::channel<Moored> moored{"harbour.moored"};
    const courier::publisher<Moored> publishes{moored};
    courier::subscriber in{"logbook"};
    in.subscribe(publishes, [] {});
}
