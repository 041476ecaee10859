// expect: courier: a handler that takes a span gives no verdict
// within: 12 lines
#include "reef.hpp"

#include <span>

int main() {
    courier::channel<Moored> moored{"moored"};
    const auto s = moored.subscribe([](std::span<const Moored>) { return courier::verdict::stop; });
}
