// expect: courier: options are delivery_options
// except: both compilers go through every overload
#include "reef.hpp"

#include <courier/channel.hpp>
#include <courier/subscriber.hpp>

int main() {
    courier::channel<Moored> moored{"harbour.moored"};
    courier::subscriber in{"logbook"};
    in.subscribe(moored, [] {}, {.time = 1});
}
