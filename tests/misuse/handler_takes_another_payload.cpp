// expect: courier: this handler cannot take this channel's payload
#include <courier/courier.hpp>
struct Moored {
    int boat;
};
struct Bitten {
    int barge;
};
int main() {
    courier::channel<Moored> moored{"harbour.moored"};
    const auto s = moored.subscribe([](const Bitten&) {});
}
