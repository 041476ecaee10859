// expect: (has no|does not refer to any).*(member|field)
#include "reef.hpp"

int main() {
    courier::channel<Moored> moored{"harbour.moored"};
    moored.publish(Moored{.bote = 3});
}
