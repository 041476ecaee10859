// expect: courier: a handler of several sources, or of delayed payloads, gives no verdict
// within: 12 lines
#include "reef.hpp"

#include <courier/pipeline.hpp>

int main() {
    courier::channel<Moored> port{"port"};
    courier::channel<Moored> starboard{"starboard"};
    const auto s = courier::merge(port, starboard).subscribe([](const Moored&) { return courier::verdict::stop; });
}
