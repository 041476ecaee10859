// expect: courier: a level is made by a function that takes
#include "reef.hpp"

#include <courier/hub.hpp>

#include <courier/level.hpp>

int main() {
    courier::hub game{"game"};
    courier::level reef{"reef", game, [] {}};
}
