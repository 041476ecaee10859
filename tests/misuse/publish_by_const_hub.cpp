// expect: courier: a const channel can be subscribed to only
// within: 12 lines
#include "reef.hpp"

int main() {
    const courier::hub match{"match"};
    match.channel<Moored>().publish({.boat = 3});
}
