// expect: the handler is unsubscribed as soon as this subscription is destroyed
#include "reef.hpp"

#include <courier/channel.hpp>

int main() {
    courier::channel<Dawn> dawn{"watch.dawn"};
    dawn.subscribe([] {});
}
