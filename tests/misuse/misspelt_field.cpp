// expect: (has no|does not refer to any).*(member|field)
// except: both compilers name the field, in their own words
#include "reef.hpp"

#include <courier/channel.hpp>

int main() {
    courier::channel<Moored> moored{"harbour.moored"};
    moored.publish(Moored{.bote = 3});
}
