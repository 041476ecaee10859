// expect: courier: #include <courier/publisher.hpp>
#include <courier/channel.hpp>

struct Moored {
    int boat;
};
struct Boat {
    courier::publisher<Moored> out;
};
