// expect: courier: neither copied nor moved.*hold its object by std::unique_ptr
#include "reef.hpp"

#include <vector>

struct Gull {
    courier::subscriber in{"gull"};
};

int main() {
    std::vector<Gull> all;
    all.emplace_back();
}
