// expect: courier: this source cannot call this handler
#include "reef.hpp"

#include <courier/channel.hpp>

#include <span>

int main() {
    courier::channel<Moored> moored{"moored"};
    const auto s = moored.subscribe([](std::span<const Moored>) { return courier::verdict::stop; });
}
