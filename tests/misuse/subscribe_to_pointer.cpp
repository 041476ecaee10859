// expect: courier: give the channel itself instead of a pointer to it
#include "reef.hpp"

#include <courier/channel.hpp>
#include <courier/subscriber.hpp>

int main() {
    courier::channel<Moored> moored{"harbour.moored"};
    courier::subscriber in{"logbook"};
    in.subscribe(&moored, [] {});
}
