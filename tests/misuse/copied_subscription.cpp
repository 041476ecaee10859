// expect: deleted
#include "reef.hpp"

#include <courier/channel.hpp>

int main() {
    courier::channel<Dawn> dawn{"watch.dawn"};
    const auto one = dawn.subscribe([] {});
    const auto two = one;
}
