// expect: deleted
#include <courier/courier.hpp>
struct Dawn {};
int main() {
    courier::channel<Dawn> dawn{"watch.dawn"};
    const auto one = dawn.subscribe([] {});
    const auto two = one;
}
