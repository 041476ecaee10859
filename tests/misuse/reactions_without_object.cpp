// expect: courier: a set of reactions is a function that takes
#include "reef.hpp"

#include <courier/subscriber.hpp>

#include <courier/reactions.hpp>

int main() {
    courier::reactions<int> mast{"mast", [](courier::subscriber&) {}};
}
