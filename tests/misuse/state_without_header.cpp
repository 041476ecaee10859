// expect: courier: #include <courier/state.hpp>
// within: 12 lines
#include <courier/channel.hpp>

struct Boat {
    courier::state<int> crates;
};
