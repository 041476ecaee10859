// expect: courier: a const channel can be subscribed to only
#include "reef.hpp"

#include <courier/hub.hpp>

int main() {
    const courier::hub match{"match"};
    match.channel<Moored>().publish({.boat = 3});
}
