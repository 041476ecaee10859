// expect: (designator order|does not match declaration order|must be specified in declaration order|reorder)
// except: both compilers name the members and their order, in their own words
#include "reef.hpp"

#include <courier/channel.hpp>
#include <courier/subscriber.hpp>

int main() {
    courier::channel<Moored> moored{"harbour.moored"};
    courier::subscriber in{"logbook"};
    in.subscribe(moored, [] {}, {.times = 1, .stage = courier::ordinary});
}
