// expect: courier: a refresher is called without arguments
#include "reef.hpp"

#include <courier/subscriber.hpp>

#include <courier/state.hpp>

int main() {
    courier::subscriber in;
    in.keep_current([](int) {});
}
