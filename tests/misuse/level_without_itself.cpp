// expect: courier: a level is made by a function that takes
// within: 12 lines
#include "reef.hpp"

#include <courier/level.hpp>

int main() {
    courier::hub game{"game"};
    courier::level reef{"reef", game, [] {}};
}
