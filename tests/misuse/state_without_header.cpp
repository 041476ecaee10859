// expect: courier: #include <courier/state.hpp>
// except: g++ names every header on the way to the declaration
#include <courier/channel.hpp>

struct Boat {
    courier::state<int> crates;
};
