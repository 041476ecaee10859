// expect: courier: #include <courier/publisher.hpp>
// within: 12 lines
#include <courier/channel.hpp>

struct Moored {
    int boat;
};
struct Boat {
    courier::publisher<Moored> out;
};
