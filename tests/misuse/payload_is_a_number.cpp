// expect: courier: a payload is a struct with named fields
// within: 12 lines
#include "reef.hpp"

int main() {
    courier::channel<int> depth{"tide.depth"};
}
