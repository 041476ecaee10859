// expect: courier: a handler of several sources, or of what waited, gives no verdict
#include "reef.hpp"

#include <courier/pipeline.hpp>

int main() {
    courier::channel<Moored> port{"port"};
    courier::channel<Moored> starboard{"starboard"};
    const auto s = courier::merge(port, starboard).subscribe([](const Moored&) { return courier::verdict::stop; });
}
