// expect: courier: neither copied nor moved.*hold its object by std::unique_ptr
#include "reef.hpp"

#include <courier/subscriber.hpp>

#include <utility>

struct Gull {
    courier::subscriber in{"gull"};
};

int main() {
    Gull one;
    Gull other = std::move(one);
}
