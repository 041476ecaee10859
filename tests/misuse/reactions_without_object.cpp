// expect: courier: a set of reactions is a function that takes
// within: 10 lines
#include "reef.hpp"

#include <courier/reactions.hpp>

int main() {
    courier::reactions<int> mast{"mast", [](courier::subscriber&) {}};
}
