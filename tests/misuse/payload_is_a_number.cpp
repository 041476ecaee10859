// expect: courier: a payload is a struct with named fields
#include "reef.hpp"

#include <courier/channel.hpp>

int main() {
    courier::channel<int> depth{"tide.depth"};
}
