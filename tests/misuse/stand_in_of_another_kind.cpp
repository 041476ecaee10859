// expect: courier: a stand-in for a system is derived from it
#include "reef.hpp"

#include <courier/systems.hpp>

int main() {
    courier::systems reef;
    reef.stand_in<Moored, Dawn>();
}
