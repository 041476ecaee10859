// expect: courier: this channel carries another payload type
#include <courier/courier.hpp>
struct Moored {
    int boat;
};
struct Bitten {
    int barge;
};
int main() {
    courier::channel<Moored> moored{"harbour.moored"};
    moored.publish(Bitten{1});
}
