// expect: courier: neither copied nor moved.*hold its object by std::unique_ptr
// except: the standard library moves the object, and says how it came to it
#include "reef.hpp"

#include <courier/subscriber.hpp>

#include <vector>

struct Gull {
    courier::subscriber in{"gull"};
};

int main() {
    std::vector<Gull> all;
    all.emplace_back();
}
