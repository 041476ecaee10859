// expect: courier: this source cannot call this handler.*several sources
#include "reef.hpp"

#include <courier/channel.hpp>

#include <courier/pipeline.hpp>

int main() {
    courier::channel<Moored> port{"port"};
    courier::channel<Moored> starboard{"starboard"};
    const auto s = courier::merge(port, starboard).subscribe([](const Moored&) { return courier::verdict::stop; });
}
