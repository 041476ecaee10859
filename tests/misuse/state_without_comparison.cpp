// expect: courier: the values of a state are compared
// within: 12 lines
#include <courier/state.hpp>

struct Tide {
    int level;
};

int main() {
    courier::state<Tide> tide{"tide", {1}};
}
