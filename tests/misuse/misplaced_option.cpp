// expect: (designator order|does not match declaration order|must be specified in declaration order|reorder)
// within: 10 lines
#include "reef.hpp"

int main() {
    courier::channel<Moored> moored{"harbour.moored"};
    courier::subscriber in{"logbook"};
    in.subscribe(moored, [] {}, {.times = 1, .stage = courier::ordinary});
}
