// expect: the handler is unsubscribed as soon as this subscription is destroyed
// within: 12 lines
#include "reef.hpp"

int main() {
    courier::channel<Dawn> dawn{"watch.dawn"};
    dawn.subscribe([] {});
}
