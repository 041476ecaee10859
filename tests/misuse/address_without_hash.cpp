// expect: courier: an address is plain data of at most eight bytes without padding
// within: 12 lines
#include "reef.hpp"

struct Berth {
    double east, north;
};

int main() {
    courier::addressed_channel<Moored, Berth> moored{"moored"};
}
