// expect: courier: this publisher carries another payload type
#include <courier/courier.hpp>
struct Moored {
    int boat;
};
struct Bitten {
    int barge;
};
int main() {
    courier::channel<Moored> moored{"harbour.moored"};
    const courier::publisher<Moored> barge{moored};
    barge.publish(Bitten{1});
}
