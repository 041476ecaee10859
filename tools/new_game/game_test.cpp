// SPDX-License-Identifier: MIT
// Any test framework will do; this needs none.
#include "game.hpp"

#include <courier/witness.hpp>

int main() {
    harbour here;
    const board shown{here};
    const courier::witness moored{here.moored()}; // collects what the channel carries
    here.moor(3, 12);
    here.moor(4, 7);
    return moored.count() == 2 && moored.latest().boat == 4 && shown.crates() == 19 ? 0 : 1;
}
