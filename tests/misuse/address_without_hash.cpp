// expect: courier: an address is plain data of at most eight bytes without padding
#include "reef.hpp"

#include <courier/addressed_channel.hpp>

struct Berth {
    double east, north;
};

int main() {
    courier::addressed_channel<Moored, Berth> moored{"moored"};
}
