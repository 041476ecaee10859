// expect: courier: a const state can be read and subscribed to only
#include "reef.hpp"

#include <courier/state.hpp>

int main() {
    const courier::state<int> crates{"crates", 3};
    crates.set(4);
}
