// expect: courier: a stand-in for a system is derived from it
// within: 10 lines
#include "reef.hpp"

#include <courier/systems.hpp>

int main() {
    courier::systems reef;
    reef.stand_in<Moored, Dawn>();
}
