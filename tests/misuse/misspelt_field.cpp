// expect: (has no|does not refer to any).*(member|field)
// within: 12 lines
#include "reef.hpp"

int main() {
    courier::channel<Moored> moored{"harbour.moored"};
    moored.publish(Moored{.bote = 3});
}
