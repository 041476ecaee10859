// expect: courier: the values of a state are compared
#include <courier/state.hpp>

struct Tide {
    int level;
};

int main() {
    courier::state<Tide> tide{"tide", {1}};
}
