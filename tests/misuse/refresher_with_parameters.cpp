// expect: courier: a refresher is called without arguments
// within: 12 lines
#include "reef.hpp"

#include <courier/state.hpp>

int main() {
    courier::subscriber in;
    in.keep_current([](int) {});
}
