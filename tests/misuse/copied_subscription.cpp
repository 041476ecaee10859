// expect: deleted
// within: 12 lines
#include "reef.hpp"

int main() {
    courier::channel<Dawn> dawn{"watch.dawn"};
    const auto one = dawn.subscribe([] {});
    const auto two = one;
}
