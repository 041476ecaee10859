// expect: the handler is unsubscribed as soon as this subscription is destroyed
#include <courier/courier.hpp>
struct Dawn {};
int main() {
    courier::channel<Dawn> dawn{"watch.dawn"};
    dawn.subscribe([] {});
}
