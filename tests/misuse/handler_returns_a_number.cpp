// expect: courier: a handler returns nothing or a courier::verdict
// within: 12 lines
#include "reef.hpp"

int main() {
    courier::channel<Moored> moored{"harbour.moored"};
    const auto s = moored.subscribe([](const Moored& m) { return m.boat; });
}
